import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
	client,
	type DraftState,
	type Finding,
	type IntakeSettings,
	unwrap,
} from "../../api/client";
import { DataTable } from "../../ui/DataTable";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Doubles } from "./Doubles";
import { Offers } from "./Offers";

interface Props {
	state: DraftState;
	save: (settings: IntakeSettings) => void;
}

const BADGE = {
	stop: { words: "Stops", look: "bg-behind-wash text-behind" },
	ask: { words: "Ask", look: "bg-amber-wash text-amber-ink" },
	done: { words: "Done", look: "bg-ahead-wash text-ahead" },
} as const;

/** What was found, by what it asks of the user: stops, questions, things done for them. */
export function Findings({ state, save }: Props) {
	const found = state.examination?.findings ?? [];
	const order = { stop: 0, ask: 1, done: 2 };
	const sorted = [...found].sort((a, b) => order[a.kind] - order[b.kind]);
	function decide(key: string, choice: string): void {
		const { [key]: _, ...rest } = state.settings.decisions ?? {};
		save({ ...state.settings, decisions: choice ? { ...rest, [key]: choice } : rest });
	}
	if (sorted.length === 0) return <p className="text-muted">Nothing stands in the way.</p>;
	return (
		<section aria-label="What was found">
			<h2 className="border-b border-line pb-1 text-[13px] font-semibold text-muted">
				What was found
			</h2>
			<ul>
				{sorted.map((finding) => (
					<Line
						key={finding.key}
						draft={state.id}
						finding={finding}
						decide={(choice) => decide(finding.key, choice)}
						say={(name, choice) => decide(name, choice ?? "")}
						{...(/^date(:|$)/.test(finding.key) && {
							sayDay: (day: string) => decide(finding.key, day),
						})}
					/>
				))}
			</ul>
		</section>
	);
}

interface LineProps {
	draft: string;
	finding: Finding;
	decide: (choice: string) => void;
	/** Decides on one thing of a finding, by its own name; null takes that back. */
	say: (name: string, choice: string | null) => void;
	/** Answers it with a day, where one is asked for. */
	sayDay?: (day: string) => void;
}

function Line({ draft, finding, decide, say, sayDay }: LineProps) {
	const [open, setOpen] = useState(false);
	const badge = BADGE[finding.kind];
	const settled = finding.kind === "stop" && finding.chosen;
	const choices = finding.choices ?? [];
	const offers = finding.offers ?? [];
	const doubles = finding.doubles ?? [];
	return (
		<li className="border-b border-line/70 py-2">
			<div className="grid grid-cols-[64px_1fr_auto] items-start gap-2">
				<span
					className={`rounded px-2 py-0.5 text-center text-[13px] font-semibold ${settled ? "bg-ahead-wash text-ahead" : badge.look}`}
				>
					{settled ? "Settled" : badge.words}
				</span>
				<div>
					<p className="font-semibold">{finding.title}</p>
					<p className="text-[13px] text-muted">{finding.detail}</p>
				</div>
				<div className="flex items-center gap-3">
					{choices.length > (finding.kind === "stop" ? 0 : 1) && (
						<select
							className="select select-sm w-56"
							aria-label={`${finding.title}: choose`}
							value={finding.chosen ?? ""}
							onChange={(event) => decide(event.target.value)}
						>
							{finding.kind === "stop" && <option value="">Choose what to do</option>}
							{choices.map((choice) => (
								<option key={choice.key} value={choice.key}>
									{choice.label}
								</option>
							))}
						</select>
					)}
					{sayDay && <Day of={finding.title} say={sayDay} />}
					{finding.rows.length > 0 && (
						<button
							type="button"
							className="font-semibold text-ahead hover:underline"
							aria-expanded={open}
							aria-label={`${open ? "Hide" : "Show"} the rows: ${finding.title}`}
							onClick={() => setOpen(!open)}
						>
							{open ? "Hide" : "Show"}
						</button>
					)}
				</div>
			</div>
			{offers.length > 0 && (
				<Offers offers={offers} say={(number, whose) => say(`is:${number}`, whose)} />
			)}
			{doubles.length > 0 && (
				<Doubles
					doubles={doubles}
					n={finding.n}
					say={(name, choice) => say(`${finding.key}:${name}`, choice)}
				/>
			)}
			{open && <FileRows draft={draft} finding={finding.key} n={finding.n} />}
		</li>
	);
}

/** A day; told when it is left, for a year is typed figure by figure. */
function Day({ of, say }: { of: string; say: (day: string) => void }) {
	const [day, setDay] = useState("");
	return (
		<label className="flex items-center gap-2 text-muted">
			or
			<input
				type="date"
				className="input input-sm w-40"
				aria-label={`${of} The day`}
				value={day}
				onChange={(event) => setDay(event.target.value)}
				onBlur={() => day && say(day)}
				onKeyDown={(event) => event.key === "Enter" && day && say(day)}
			/>
		</label>
	);
}

/** The file's own rows, with the file's own line numbers. */
function FileRows({ draft, finding, n }: { draft: string; finding: string; n: number }) {
	const rows = useQuery({
		queryKey: ["draft", draft, "rows", finding],
		queryFn: () =>
			unwrap(
				client.GET("/api/drafts/{draft_id}/rows", {
					params: { path: { draft_id: draft }, query: { finding } },
				}),
			),
	});
	if (rows.isError) return <Trouble error={rows.error} />;
	if (!rows.data) return <Waiting what="Looking them up" />;
	return (
		<div className="mt-2 ml-[72px] flex flex-col rounded border border-line">
			<DataTable
				caption="Rows of the file"
				className="max-h-56 whitespace-nowrap"
				rows={rows.data.rows}
				keyOf={(row) => String(row.row)}
				columns={[
					{ key: "line", label: "Line", side: "left", cell: (row) => row.row },
					...rows.data.headers.map((header, at) => ({
						key: `${at} ${header}`,
						label: header,
						side: "left" as const,
						cell: (row: { cells: string[] }) => row.cells[at],
					})),
				]}
			/>
			{n > rows.data.rows.length && (
				<p className="px-2 text-muted">
					The first {rows.data.rows.length} of {n}.
				</p>
			)}
		</div>
	);
}

import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Chip, Hatches, Reach } from "../../charts/awardStates";
import { figure } from "../../lib/numbers";
import { day } from "../../lib/words";
import { FileLine } from "../../question/listing/FileLine";
import { type Column, DataTable } from "../../ui/DataTable";

type Credits = Schemas["Credits"];
type Held = Schemas["AwardHeld"];
type Condition = Schemas["ConditionHeld"];
type CreditRow = Schemas["CreditRecord"];

const STATES = ["not yet", "on course", "met"];

/** How a student stands in each award, what closes each gap, and every record with what it counts
 * for. */
export function StudentAwards({ credits }: { credits: Credits | null | undefined }) {
	if (!credits) return null;
	return (
		<section aria-label="Awards" className="mt-4">
			<Hatches />
			<h2 className="mb-1 font-semibold">Awards, {credits.school_year}</h2>
			<div className="grid gap-x-6 gap-y-3 min-[900px]:grid-cols-2">
				{credits.awards.map((award) => (
					<Award key={award.name} award={award} />
				))}
			</div>
			<Records records={credits.records} />
		</section>
	);
}

function Award({ award }: { award: Held }) {
	const rests = award.rests.length
		? ` · rests on ${award.rests.join(", ")}`
		: award.state === "not yet"
			? ` · ${award.conditions.filter((one) => one.state === "not yet").length} of ${award.conditions.length} conditions short`
			: "";
	return (
		<section aria-label={award.name}>
			<h3 className="flex items-center gap-2 text-[13px]">
				<Chip state={STATES.indexOf(award.state)} states={STATES} />
				<b>{award.name}</b>
				<span className="text-muted">
					{award.state}
					{rests}
				</span>
			</h3>
			<ul>
				{award.conditions.map((one) => (
					<ConditionLine key={one.name} one={one} />
				))}
			</ul>
		</section>
	);
}

const COLUMNS = "grid grid-cols-[minmax(90px,1fr)_minmax(80px,1.2fr)_66px_minmax(0,1.3fr)] gap-x-2";

function ConditionLine({ one }: { one: Condition }) {
	return (
		<li
			className={`${COLUMNS} items-center border-t border-line py-0.5 text-[13px]`}
			title={one.says}
		>
			<span className="truncate">{one.name}</span>
			<Reach
				banked={one.banked}
				with_estimates={one.with_estimates}
				needed={one.needed}
				most={Math.max(one.needed, one.with_estimates)}
				unit={one.unit}
			/>
			<span className="text-right">
				{short(one.with_estimates)} <span className="text-muted">of {short(one.needed)}</span>
			</span>
			<span className={one.state === "not yet" ? "font-semibold text-behind" : "text-muted"}>
				{closing(one)}
			</span>
		</li>
	);
}

/** What is short, or which estimates would meet it. */
function closing(one: Condition): string {
	if (one.state === "met") return "met";
	if (one.state === "on course") return `with ${one.closes.join(", ")}`;
	if (one.short <= 0) return "not yet";
	const planned =
		one.with_estimates > one.banked ? "even with estimates" : "nothing planned for it";
	return `${short(one.short)} short, ${planned}`;
}

function short(value: number): string {
	return figure(value, Number.isInteger(value) ? 0 : 1);
}

function Records({ records }: { records: CreditRow[] }) {
	const subjects = [...new Set(records.map((one) => one.subject))].filter(Boolean);
	const [subject, setSubject] = useState("");
	const [opened, setOpened] = useState("");
	const shown = subject ? records.filter((one) => one.subject === subject) : records;
	return (
		<details className="mt-3">
			<summary className="cursor-pointer font-semibold">
				{records.length} credit records, and what each counts for
			</summary>
			{subjects.length > 1 && (
				<label className="no-print mt-1 block text-[13px]">
					subject{" "}
					<select
						className="rounded border border-line px-1 py-0.5"
						value={subject}
						onChange={(event) => setSubject(event.target.value)}
					>
						<option value="">all</option>
						{subjects.map((one) => (
							<option key={one}>{one}</option>
						))}
					</select>
				</label>
			)}
			<DataTable
				caption="Credit records by standard"
				rows={shown}
				keyOf={lineOf}
				columns={[
					...RECORD_COLUMNS,
					{
						key: "file",
						label: "file",
						side: "left",
						cell: (row) => (
							<button
								type="button"
								className="no-print text-left text-ahead hover:underline"
								aria-expanded={opened === lineOf(row)}
								onClick={() => setOpened(opened === lineOf(row) ? "" : lineOf(row))}
							>
								{row.file}, line {row.origin.line}
							</button>
						),
					},
				]}
				below={(row) => (opened === lineOf(row) ? <FileLine origin={row.origin} /> : undefined)}
			/>
		</details>
	);
}

/** One line may say the records of several standards. */
function lineOf(row: CreditRow): string {
	return `${row.standard} ${row.origin.batch_id} ${row.origin.line}`;
}

const RECORD_COLUMNS: Column<CreditRow>[] = [
	{
		key: "standard",
		label: "standard",
		side: "left",
		cell: (row) => (
			<>
				{row.standard}
				<small className="block font-normal text-muted">{row.title}</small>
			</>
		),
	},
	{ key: "subject", label: "subject", side: "left", cell: (row) => row.subject },
	{ key: "level", label: "level", cell: (row) => row.level },
	{ key: "kind", label: "kind", side: "left", cell: (row) => row.kind },
	{ key: "result", label: "result", side: "left", cell: (row) => row.result },
	{ key: "credits", label: "credits", cell: (row) => short(row.credits) },
	{
		key: "banked",
		label: "standing",
		side: "left",
		cell: (row) => (
			<>
				{row.banked ? "banked" : "estimated"}
				<small className="block whitespace-nowrap text-muted">{day(row.date)}</small>
			</>
		),
	},
	{
		key: "counts",
		label: "counts for",
		side: "left",
		cell: (row) => row.counts.join("; ") || "nothing",
	},
];

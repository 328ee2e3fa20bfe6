import type { DraftState, Schemas } from "../../api/client";
import { count, figure } from "../../lib/numbers";
import { FirstLook } from "./FirstLook";

interface Props {
	state: DraftState;
	busy: boolean;
	keep: (token: string) => void;
}

/** What a row of a file of students is called; of every other file it is a row. */
const ROWS: Partial<Record<DraftState["kind"], string>> = { results: "result", credits: "record" };

/** The right side: what will happen if it is kept now. */
export function KeepPanel({ state, busy, keep }: Props) {
	const shown = state.examination;
	if (!shown)
		return (
			<aside aria-label="If you keep it now" className="border-l border-line px-4 py-4">
				<h2 className="mb-2 font-bold">If you keep it now</h2>
				<p className="text-muted">Nothing yet: the file is not understood.</p>
			</aside>
		);
	const open = shown.findings.filter((finding) => finding.kind === "stop" && !finding.chosen);
	return (
		<aside aria-label="If you keep it now" className="flex min-h-0 flex-col border-l border-line">
			{/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and may hold nothing to reach */}
			<section aria-label="What would be kept" tabIndex={0} className="overflow-auto px-4 py-4">
				<h2 className="mb-1 font-bold">If you keep it now</h2>
				<dl className="mb-4">
					{shown.counts.map((item) => (
						<div
							key={item.key}
							className="flex justify-between border-b border-line/70 px-2 py-1.5"
						>
							<dt>{item.label}</dt>
							<dd className="font-bold">{figure(item.n, 0)}</dd>
						</div>
					))}
				</dl>
				<Created creates={shown.creates} />
				<Assumed defaults={shown.defaults} />
				{shown.first_look
					.filter((look) => look.n > 0)
					.map((look) => (
						<FirstLook key={look.label} look={look} />
					))}
			</section>
			<div className="mt-auto border-t border-line px-4 py-3">
				<p role="status" className="mb-2 text-[13px] text-muted">
					Keeping is one step and can be undone from the history.
					{open.length > 0 && ` ${count(open.length, "thing")} must be settled first.`}
				</p>
				<button
					type="button"
					className="btn btn-primary w-full"
					disabled={open.length > 0 || busy}
					onClick={() => keep(shown.token ?? "")}
				>
					{busy ? "Working…" : `Keep ${count(shown.rows_kept, ROWS[state.kind] ?? "row")}`}
				</button>
			</div>
		</aside>
	);
}

function Created({ creates }: { creates: Schemas["Creation"][] }) {
	if (creates.length === 0) return null;
	return (
		<section aria-label="Will be created" className="mb-4">
			<h3 className="text-[13px] font-semibold">Will be created</h3>
			<ul className="text-[13px]">
				{creates.map((item) => (
					<li key={item.kind}>
						<b>
							{item.names.length}{" "}
							{item.names.length === 1
								? item.kind.replace(/(e?)s$/, item.kind === "classes" ? "" : "$1")
								: item.kind}
						</b>
						:{" "}
						<span className="text-muted">
							{item.names.slice(0, 12).join(", ")}
							{item.names.length > 12 && " …"}
						</span>
					</li>
				))}
			</ul>
		</section>
	);
}

function Assumed({ defaults }: { defaults: Schemas["DefaultUsed"][] }) {
	if (defaults.length === 0) return null;
	return (
		<section aria-label="Assumed" className="mb-4 text-[13px]">
			<h3 className="font-semibold">Assumed</h3>
			<ul>
				{defaults.map((item) => (
					<li key={item.key}>
						<b>{item.key.replaceAll("_", " ")}</b> {item.value || "none"}{" "}
						<span className="text-muted">({item.why})</span>
					</li>
				))}
			</ul>
		</section>
	);
}

import type { Schemas } from "../../api/client";
import { figure } from "../../lib/numbers";

const WORDS = {
	changed: "Would change",
	moved: "Changed school",
	gone: "No longer on roll",
	new: "Not seen before",
} as const;

/** What the file would change of what is kept: student by student, cell by cell. */
export function Changes({ shown }: { shown: Schemas["Examination"] }) {
	const changes = shown.changes ?? [];
	const kinds = (["changed", "moved", "gone", "new"] as const).filter((kind) =>
		changes.some((change) => change.kind === kind),
	);
	if (kinds.length === 0) return null;
	return (
		<section aria-label="What would change" className="mt-4">
			<h2 className="border-b border-line pb-1 text-[13px] font-semibold text-muted">
				What would change
			</h2>
			{kinds.map((kind) => {
				const rows = changes.filter((change) => change.kind === kind);
				const all = shown.counts.find((item) => item.key === kind)?.n ?? rows.length;
				return (
					<details key={kind} className="border-b border-line/70 py-1.5">
						<summary className="cursor-pointer font-semibold">
							{WORDS[kind]} <span className="font-normal text-muted">{figure(all, 0)}</span>
						</summary>
						<div className="mt-1 max-h-64 overflow-auto">
							<Rows rows={rows} />
							{all > rows.length && (
								<p className="text-[13px] text-muted">The first {rows.length} are listed.</p>
							)}
						</div>
					</details>
				);
			})}
		</section>
	);
}

function Rows({ rows }: { rows: Schemas["Change"][] }) {
	return (
		<table className="text-left text-[13px] [&_td]:pr-5 [&_th]:pr-5">
			<thead className="sticky top-0 bg-paper text-muted">
				<tr>
					{["Line", "Number", "Name", "What", "Kept now", "In the file"].map((head) => (
						<th key={head} scope="col" className="font-semibold">
							{head}
						</th>
					))}
				</tr>
			</thead>
			<tbody>
				{rows.map((row, at) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: one student may change twice in a line
					<tr key={at} className="border-t border-line/60">
						<td>{row.line || ""}</td>
						<td>{row.number}</td>
						<td>{row.name}</td>
						<td>{row.what}</td>
						<td>{row.before || "none"}</td>
						<td className="font-semibold">{row.after || "none"}</td>
					</tr>
				))}
			</tbody>
		</table>
	);
}

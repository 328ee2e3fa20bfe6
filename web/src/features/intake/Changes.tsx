import type { Schemas } from "../../api/client";
import { figure } from "../../lib/numbers";
import { DataTable } from "../../ui/DataTable";

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
						<div className="mt-1 flex flex-col">
							<Rows rows={rows} kind={kind} />
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

function Rows({ rows, kind }: { rows: Schemas["Change"][]; kind: keyof typeof WORDS }) {
	return (
		<DataTable
			caption={WORDS[kind]}
			className="max-h-64"
			named={false}
			rows={rows}
			keyOf={(_, at) => String(at)}
			columns={[
				{ key: "line", label: "Line", side: "left", cell: (row) => row.line || "" },
				{ key: "number", label: "Number", side: "left", cell: (row) => row.number },
				{ key: "name", label: "Name", side: "left", cell: (row) => row.name },
				{ key: "what", label: "What", side: "left", cell: (row) => row.what },
				{ key: "before", label: "Kept now", side: "left", cell: (row) => row.before || "none" },
				{
					key: "after",
					label: "In the file",
					side: "left",
					className: "font-semibold",
					cell: (row) => row.after || "none",
				},
			]}
		/>
	);
}

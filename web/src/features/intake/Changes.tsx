import type { Schemas } from "../../api/client";
import { DataTable } from "../../ui/DataTable";

/** What the file would change of what is kept: student by student, cell by cell. */
export function Changes({ shown }: { shown: Schemas["Examination"] }) {
	const changes = shown.changes ?? [];
	const groups = shown.change_groups ?? [];
	if (groups.length === 0) return null;
	return (
		<section aria-label="What would change" className="mt-4">
			<h2 className="border-b border-line pb-1 text-[13px] font-semibold text-muted">
				What would change
			</h2>
			{groups.map((group) => {
				const rows = changes.filter((one) => one.kind === group.kind && one.what === group.what);
				return (
					<details key={`${group.kind} ${group.what}`} className="border-b border-line/70 py-1.5">
						<summary className="cursor-pointer font-semibold">{group.title}</summary>
						<div className="mt-1 flex flex-col">
							<Rows rows={rows} title={group.title} />
							{group.n > rows.length && (
								<p className="text-[13px] text-muted">The first {rows.length} are listed.</p>
							)}
						</div>
					</details>
				);
			})}
		</section>
	);
}

function Rows({ rows, title }: { rows: Schemas["Change"][]; title: string }) {
	return (
		<DataTable
			caption={title}
			className="max-h-64"
			named={false}
			rows={rows}
			keyOf={(_, at) => String(at)}
			columns={[
				{ key: "line", label: "Line", side: "left", cell: (row) => row.line || "" },
				{ key: "number", label: "Number", side: "left", cell: (row) => row.number },
				{ key: "name", label: "Name", side: "left", cell: (row) => row.name },
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

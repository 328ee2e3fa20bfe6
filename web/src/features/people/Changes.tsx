import type { Schemas } from "../../api/client";
import { count } from "../../lib/numbers";

/** Who came, who went, and which cells say something else now. */
export function Changes({ changes }: { changes: Schemas["ListChanges"] }) {
	const { rows, since, version } = changes;
	if (!rows.length)
		return (
			<p className="p-1">
				Nothing changed between version {since} and version {version}.{shifted(changes)}
			</p>
		);
	return (
		<div className="p-1">
			<p className="mb-1 font-semibold">
				{count(rows.length, "row")} since version {since}
			</p>
			<ul className="space-y-1 text-[13px]">
				{rows.map((row) => (
					<li key={row.student}>
						<b>{row.name}</b>
						{row.came && " came"}
						{row.went && " went"}
						<ul className="pl-3 text-muted">
							{row.cells?.map((cell) => (
								<li key={cell.column}>
									{cell.column}: {cell.before || "blank"} → <b>{cell.now || "blank"}</b>
								</li>
							))}
						</ul>
					</li>
				))}
			</ul>
			<p className="mt-1 text-[13px] text-muted">{shifted(changes)}</p>
		</div>
	);
}

function shifted({ shifted: n = 0 }: Schemas["ListChanges"]): string {
	if (!n) return "";
	return ` In ${count(n, "other row")} only what is expected moved, as others' results came in.`;
}

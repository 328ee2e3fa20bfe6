import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { figure } from "../../lib/numbers";

export type Figures = Schemas["PublishedFigures"];
type Row = Figures["rows"][number];

/** The row of everybody, above those of some. */
const ALL = "All students";

interface Props {
	figures: Figures;
	/** What stands above the figures. */
	heads: readonly string[];
	/** What stands above the drawing, where there is one. */
	axis?: ReactNode;
	/** The cells of a row that is published, as many as there are heads and an axis. */
	cells: (row: Row) => ReactNode;
}

/** Rows of students: how many, and their figures, or why they are held back. */
export function PublishedTable({ figures, heads, axis, cells }: Props) {
	const columns = 2 + heads.length + (axis === undefined ? 0 : 1);
	return (
		<table className="text-[13px] [&_td]:py-1 [&_th]:py-1">
			<caption className="sr-only">{figures.label}</caption>
			<thead className="border-b border-line text-muted">
				<tr>
					<th scope="col" className="pr-6 text-left font-normal">
						Students
					</th>
					{["n", "missing", ...heads].map((head) => (
						<th key={head} scope="col" className="pr-6 text-right font-normal">
							{head}
						</th>
					))}
					{axis !== undefined && (
						<th scope="col" className="pl-6 font-normal">
							{axis}
						</th>
					)}
				</tr>
			</thead>
			<tbody>
				{figures.rows.map((row) => (
					<tr
						key={row.label}
						className={row.label === ALL ? "border-b border-line font-semibold" : ""}
					>
						<th scope="row" className="pr-6 text-left">
							{row.label}
						</th>
						{row.held ? (
							<td colSpan={columns} className="text-muted">
								held back: {row.held}
							</td>
						) : (
							<>
								<Cell>{figure(row.n ?? 0, 0)}</Cell>
								<Cell>
									{row.missing == null ? (
										<i className="text-muted">held back</i>
									) : (
										figure(row.missing, 0)
									)}
								</Cell>
								{cells(row)}
							</>
						)}
					</tr>
				))}
			</tbody>
		</table>
	);
}

export function Cell({ children }: { children: ReactNode }) {
	return <td className="pr-6 text-right">{children}</td>;
}

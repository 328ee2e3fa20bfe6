import { figure } from "../../lib/numbers";

/** The row of everybody, above those of some. */
export const ALL = "All students";

/** Why a row is not published, over the width of its figures. */
export function Held({ why, columns }: { why: string; columns: number }) {
	return (
		<td colSpan={columns} className="text-muted" title={why}>
			held back: {why}
		</td>
	);
}

export function Numbers({ n, missing }: { n?: number | null; missing?: number | null }) {
	return (
		<>
			<td className="pr-6 text-right">{figure(n ?? 0, 0)}</td>
			<td className="pr-6 text-right">
				{missing == null ? <i className="text-muted">held back</i> : figure(missing, 0)}
			</td>
		</>
	);
}

export function HeadCell({ words, left = false }: { words: string; left?: boolean }) {
	return (
		<th scope="col" className={`pr-6 font-normal ${left ? "text-left" : "text-right"}`}>
			{words}
		</th>
	);
}

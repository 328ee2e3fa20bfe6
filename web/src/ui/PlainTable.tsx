import type { ReactNode } from "react";

interface Props {
	heads: readonly string[];
	/** Those whose cells are figures, which stand at the right. */
	figures?: readonly string[];
	children: ReactNode;
}

/** A few rows that need neither sorting nor scrolling. */
export function PlainTable({ heads, figures = [], children }: Props) {
	return (
		<table className="self-start text-left text-[13px] [&_td]:py-1 [&_td]:pr-5 [&_th]:py-1 [&_th]:pr-5">
			<thead className="border-b border-line text-muted">
				<tr>
					{heads.map((head) => (
						<th key={head} scope="col" className={figures.includes(head) ? "text-right" : ""}>
							{head}
						</th>
					))}
				</tr>
			</thead>
			<tbody>{children}</tbody>
		</table>
	);
}

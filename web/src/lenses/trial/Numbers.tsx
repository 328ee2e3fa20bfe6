import { meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";
import { type Body, said } from "./model";

type Row = Body["rows"][number];

/** Every group without and with the try. */
export function Numbers({ answer }: LensProps) {
	const body = answer.body;
	if (body.show !== "trial") return null;
	const verdict = (key: "verdict_now" | "verdict", label: string): Column<Row> => ({
		key,
		label,
		cell: (row) => {
			const held = row[key] ?? "none";
			return (
				<span className={tone(held)} title={meaning({ verdict: held })}>
					{SYMBOL[held]}
				</span>
			);
		},
	});
	return (
		<DataTable
			caption={answer.sentence}
			rows={body.rows}
			keyOf={(row) => row.key}
			columns={[
				{ key: "label", label: body.dimension, side: "left", cell: (row) => row.label },
				{ key: "n", label: "n", cell: (row) => row.n },
				{ key: "missing", label: "missing", cell: (row) => row.missing },
				{ key: "moved", label: "moved", cell: (row) => row.moved },
				{ key: "now", label: "in the record", cell: (row) => said(body, row.now) },
				verdict("verdict_now", ""),
				{
					key: "tried",
					label: "with the try",
					edge: true,
					cell: (row) => (
						<>
							{said(body, row.tried)}
							<span className="block text-[11px] text-muted">
								{said(body, row.low)} to {said(body, row.high)}
							</span>
						</>
					),
				},
				verdict("verdict", ""),
			]}
		/>
	);
}

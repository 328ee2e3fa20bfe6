import type { Schemas } from "../../api/client";
import { figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { DataTable } from "../../ui/DataTable";

type Curve = Schemas["Curve"];

const QUANTILES = [
	["minimum", "lowest"],
	["p10", "10th"],
	["q1", "lower quarter"],
	["median", "median"],
	["q3", "upper quarter"],
	["p90", "90th"],
	["maximum", "highest"],
	["mean", "mean"],
	["sd", "sd"],
] as const;

/** The quantiles, mean and spread of every group. */
export function SpreadNumbers({ answer }: LensProps) {
	const body = answer.body;
	if (body.show !== "spread") return null;
	return (
		<DataTable
			caption="Distribution"
			rows={body.curves}
			keyOf={(row, at) => `${row.key} ${at}`}
			columns={[
				{ key: "label", label: body.dimension, side: "left", cell: (row) => row.label },
				{ key: "n", label: "n", cell: (row) => figure(row.n, 0) },
				{ key: "missing", label: "missing", cell: (row) => figure(row.missing, 0) },
				...QUANTILES.map(([key, label]) => ({
					key,
					label,
					cell: (row: Curve) => figure(row[key]),
				})),
			]}
		/>
	);
}

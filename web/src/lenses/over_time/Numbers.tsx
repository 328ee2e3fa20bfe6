import { figure, range, signed } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { DataTable } from "../../ui/DataTable";

const BESIDE: Record<string, string> = {
	ahead: "more than they did",
	behind: "less than they did",
	unclear: "cannot be told",
	few: "too few",
};

/** Every point of every group, with its change. */
export function TimeNumbers({ answer }: LensProps) {
	const body = answer.body;
	if (body.show !== "over_time") return null;
	const rows = body.series.flatMap((series) =>
		series.points.map((point) => ({ ...point, of: series.key, group: series.label })),
	);
	return (
		<DataTable
			caption={body.what}
			rows={rows}
			keyOf={(row) => `${row.of} ${row.date}`}
			columns={[
				{ key: "group", label: body.dimension, side: "left", cell: (row) => row.group },
				{ key: "sitting", label: "sitting", side: "left", cell: (row) => row.label },
				{ key: "n", label: "n", cell: (row) => figure(row.n, 0) },
				{ key: "missing", label: "missing", cell: (row) => figure(row.missing, 0) },
				{ key: "value", label: body.unit, cell: (row) => figure(row.value) },
				{ key: "interval", label: "95% interval", cell: (row) => range(row.low, row.high) },
				{ key: "change", label: "change", cell: (row) => signed(row.change) },
				{
					key: "between",
					label: "its interval",
					cell: (row) => range(row.change_low, row.change_high),
				},
				{
					key: "both",
					label: "with both",
					cell: (row) => (row.change_n ? figure(row.change_n, 0) : ""),
				},
				{
					key: "verdict",
					label: "beside the others",
					side: "left",
					cell: (row) => BESIDE[row.verdict ?? "none"] ?? "",
				},
			]}
		/>
	);
}

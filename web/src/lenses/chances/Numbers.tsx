import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { percent } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";

type Row = Schemas["ChancesRow"];

/** Every chance with its interval. */
export function Numbers({ answer }: LensProps) {
	const body = answer.body;
	if (body.show !== "chances") return null;
	const columns: Column<Row>[] = [
		{ key: "label", label: "stood at", side: "left", cell: (row) => row.label },
		{ key: "n", label: "now", cell: (row) => row.n },
		{ key: "past", label: "before", cell: (row) => row.past ?? "–" },
		{ key: "cohorts", label: "cohorts", cell: (row) => row.cohorts },
		...body.outcomes.map((outcome, at) => ({
			key: `got ${outcome.name}`,
			group: `went on to, in ${body.later}`,
			label: outcome.name,
			cell: (row: Row) => between(row.share?.[at], row.low?.[at], row.high?.[at]),
		})),
		...body.outcomes.slice(1).map((outcome, at) => ({
			key: `reached ${outcome.name}`,
			group: "or better",
			label: outcome.name,
			cell: (row: Row) =>
				between(row.at_or_above?.[at + 1], row.above_low?.[at + 1], row.above_high?.[at + 1]),
		})),
	];
	return (
		<DataTable
			caption={answer.sentence}
			rows={body.rows}
			keyOf={(row) => row.key}
			columns={columns}
		/>
	);
}

function between(
	share: number | undefined,
	low: number | undefined,
	high: number | undefined,
): ReactNode {
	if (share === undefined) return "–";
	return (
		<>
			{percent(share)}
			<span className="block text-[11px] text-muted">
				{percent(low)} to {percent(high)}
			</span>
		</>
	);
}

import type { Schemas } from "../../api/client";
import { figure, percent, range, signed } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";
import { Segments } from "../../ui/Segments";

const MODES = ["counts", "shares", "this or better", "difference from the first row"] as const;
type Mode = (typeof MODES)[number];
type Row = Schemas["LevelsRow"];

type Body = Pick<Schemas["LevelsBody"], "dimension" | "steps" | "rows" | "reference">;

/** The figures of levels. */
export function LevelNumbers(props: LensProps) {
	const body = props.answer.body;
	return body.show === "levels" ? <StepNumbers {...props} body={body} /> : null;
}

/** Counts, shares, “this step or better”, and the difference from the first row. */
export function StepNumbers({ body, look, setLook }: LensProps & { body: Body }) {
	const mode = MODES.find((one) => one === look.view) ?? "counts";
	const rows = [...body.reference, ...body.rows];
	return (
		<>
			<Segments
				label="Figures"
				options={MODES.map((one) => ({ key: one, words: one }))}
				chosen={mode}
				choose={(view) => setLook({ view })}
			/>
			<DataTable
				caption={`Levels, ${mode}`}
				rows={rows}
				keyOf={(row, at) => `${row.key} ${at}`}
				columns={columns(body, mode, rows)}
			/>
		</>
	);
}

function columns(body: Body, mode: Mode, rows: Row[]): Column<Row>[] {
	const first = body.rows[0];
	const means = [...new Set(rows.flatMap((row) => Object.keys(row.means ?? {})))];
	const cell = (row: Row, at: number) => {
		if (mode === "shares") return percent(row.share[at]);
		if (mode === "this or better") return percent(row.at_or_above[at]);
		if (mode === "counts") return row.counts.length ? figure(row.counts[at], 0) : "";
		if (!row.counts.length || !first?.counts.length) return "";
		return signed((row.counts[at] ?? 0) - (first.counts[at] ?? 0), 0);
	};
	return [
		{ key: "label", label: body.dimension, side: "left", cell: (row) => row.label },
		{ key: "n", label: "n", cell: (row) => figure(row.n, 0) },
		{ key: "missing", label: "missing", cell: (row) => figure(row.missing, 0) },
		...body.steps.map((step, at) => ({
			key: `step ${step.name}`,
			label: step.name,
			cell: (row: Row) => cell(row, at),
		})),
		{ key: "passed", label: "passed", cell: (row) => percent(row.pass_share) },
		{
			key: "interval",
			label: "95% interval",
			cell: (row) =>
				row.pass_low == null || row.pass_high == null
					? ""
					: `${percent(row.pass_low)} to ${percent(row.pass_high)}`,
		},
		{
			key: "others",
			label: "from the others, in points",
			cell: (row) =>
				row.others == null
					? ""
					: `${signed(row.others)} (${range(row.others_low, row.others_high)})`,
		},
		...means.map((one) => ({
			key: `mean ${one}`,
			label: one === "mastered" ? "standards mastered, %" : `mean ${one}`,
			cell: (row: Row) => figure(row.means?.[one]),
		})),
	];
}

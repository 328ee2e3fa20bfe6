import type { Schemas } from "../../api/client";
import { percent } from "../../lib/numbers";
import { meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";

type Row = Schemas["MovementRow"];

/** Every figure of the groups; each part of the credit opens its students. */
export function Numbers({ answer, open }: LensProps) {
	const body = answer.body;
	if (body.show !== "movement") return null;
	return (
		<DataTable
			caption={answer.sentence}
			rows={[...body.reference, ...body.rows]}
			keyOf={(row) => `${row.pinned} ${row.key}`}
			columns={columns(body, open)}
		/>
	);
}

function columns(body: Schemas["MovementBody"], open: LensProps["open"]): Column<Row>[] {
	const part = (key: "full" | "part" | "none", label: string): Column<Row> => ({
		key,
		group: body.rule,
		label,
		cell: (row) => <Part mark={row[key]} open={open} />,
	});
	return [
		{ key: "label", label: body.dimension, side: "left", cell: (row) => row.label },
		{ key: "n", label: "n", cell: (row) => row.n },
		{ key: "missing", label: "missing", cell: (row) => row.missing },
		part("full", "full"),
		part("part", "a part"),
		part("none", "none"),
		{
			key: "credit",
			label: "credit",
			edge: true,
			cell: (row) => between(row.credit, row.low, row.high),
		},
		{ key: "similar", label: "similar starters", cell: (row) => percent(row.similar) },
		{
			key: "span",
			label: "apart",
			className: "whitespace-nowrap",
			cell: (row) => (
				<span
					className={tone(row.verdict ?? "none")}
					title={meaning({ verdict: row.verdict ?? "none" })}
				>
					{between(row.span, row.span_low, row.span_high)} {SYMBOL[row.verdict ?? "none"]}
				</span>
			),
		},
		{ key: "alone", label: "error alone", cell: (row) => percent(row.alone) },
	];
}

function between(
	value: number | null | undefined,
	low: number | null | undefined,
	high: number | null | undefined,
) {
	if (value == null) return "–";
	return (
		<>
			{percent(value)}
			<span className="block text-[11px] text-muted">
				{percent(low)} to {percent(high)}
			</span>
		</>
	);
}

function Part({ mark, open }: { mark: Schemas["CreditPart"]; open: LensProps["open"] }) {
	const { opens } = mark;
	const words = (
		<>
			{mark.n} <small className="text-muted">{percent(mark.share)}</small>
			<span className="block text-[11px] text-muted">
				{percent(mark.low)} to {percent(mark.high)}
			</span>
		</>
	);
	if (!opens) return words;
	return (
		<button type="button" className="hover:underline" onClick={() => open(opens)}>
			{words}
		</button>
	);
}

import type { Schemas } from "../../api/client";
import { figure, range, signed } from "../../lib/numbers";
import { meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";

type Row = Schemas["SureRow"];

/** The lens How sure: each row by every way of drawing the line, and in the years before. */
export function HowSure({ answer, open }: LensProps) {
	if (answer.body.show !== "sure") return null;
	const body = answer.body;
	return (
		<>
			<DataTable
				caption={answer.sentence}
				rows={body.rows}
				keyOf={(row) => row.key}
				columns={columns(body, open)}
			/>
			<Beneath body={body} />
		</>
	);
}

function columns(body: Schemas["SureBody"], open: LensProps["open"]): Column<Row>[] {
	const before = body.years.slice(0, -1);
	const now = "this year, by other lines";
	const then = "other cohorts, as asked";
	const wide = "whitespace-nowrap";
	return [
		{
			key: "label",
			label: body.dimension,
			side: "left",
			className: wide,
			cell: (row) => <Name row={row} open={open} />,
		},
		{ key: "n", label: "n", className: "text-muted", cell: (row) => <Counted row={row} /> },
		...body.models.map((model, at) => ({
			key: `model ${model.key}`,
			group: now,
			label: model.asked ? "as asked" : model.label,
			className: wide,
			cell: (row: Row) => <Figure one={row.figures[at]} />,
		})),
		{
			key: "verdict",
			group: now,
			label: "verdict",
			className: wide,
			cell: (row) => (
				<span className={row.flips ? "font-bold" : "text-muted"}>
					{row.flips ? "changes" : "holds"}
				</span>
			),
		},
		...before.map((year, at) => ({
			key: `year ${year}`,
			group: then,
			label: year,
			className: wide,
			edge: at === 0,
			cell: (row: Row) => <Figure one={row.years[at]} />,
		})),
		...(before.length ? [together(then)] : []),
	];
}

function together(group: string): Column<Row> {
	return {
		key: "together",
		group,
		label: "together",
		className: "whitespace-nowrap",
		cell: (row) => (
			<span title={row.mean == null ? "" : `95% interval ${range(row.mean_low, row.mean_high)}`}>
				{signed(row.mean)}
				<span className="block text-[11px] text-muted">{range(row.mean_low, row.mean_high)}</span>
			</span>
		),
	};
}

function Name({ row, open }: { row: Row; open: LensProps["open"] }) {
	const { opens } = row;
	if (!opens) return row.label;
	return (
		<button type="button" className="hover:underline" onClick={() => open(opens)}>
			{row.label}
		</button>
	);
}

function Counted({ row }: { row: Row }) {
	return (
		<>
			{figure(row.n, 0)}
			<span className="sr-only"> counted, {row.missing} missing</span>
		</>
	);
}

function Figure({ one }: { one: Schemas["SureFigure"] | null | undefined }) {
	if (!one || one.span == null) return <span className="text-muted">–</span>;
	const words = meaning(one);
	return (
		<span className="block" title={[`${one.n} counted`, words].filter(Boolean).join(" · ")}>
			<span className={tone(one.verdict)}>
				{signed(one.span)}{" "}
				<span aria-hidden="true" className="inline-block w-3 text-center">
					{SYMBOL[one.verdict]}
				</span>
			</span>
			<span className="sr-only">
				, {words}, {one.n} counted
			</span>
			<span className="block text-[11px] text-muted">{range(one.low, one.high)}</span>
		</span>
	);
}

function Beneath({ body }: { body: Schemas["SureBody"] }) {
	return (
		<div className="mt-2 text-xs text-muted">
			{body.years.length < 2 && <p>There is one cohort only: no other year to hold it beside.</p>}
			{body.year_to_year != null && (
				<p>
					Estimated change of a row from year to year, beyond its own error:{" "}
					{figure(body.year_to_year)} {body.unit} (sd).
				</p>
			)}
			{body.not_tried.map((why) => (
				<p key={why}>Not tried – {why}</p>
			))}
		</div>
	);
}

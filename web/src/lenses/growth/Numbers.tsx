import type { ReactNode } from "react";
import type { Open, Schemas } from "../../api/client";
import { figure, percent, signed } from "../../lib/numbers";
import { meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";

type Row = Schemas["GrowthRow"];
type Opens = LensProps["open"];

/** Every figure of the groups: score and rank side by side, growth, the table, the nation. */
export function Numbers({ answer, open }: LensProps) {
	const body = answer.body;
	if (body.show !== "growth") return null;
	return (
		<DataTable
			caption={answer.sentence}
			rows={[...body.reference, ...body.rows]}
			keyOf={(row) => `${row.pinned} ${row.key}`}
			columns={columns(body, open)}
		/>
	);
}

function columns(body: Schemas["GrowthBody"], open: Opens): Column<Row>[] {
	return [
		{ key: "label", label: body.dimension, side: "left", cell: (row) => row.label },
		{ key: "n", label: "n", cell: (row) => row.n },
		{ key: "missing", label: "missing", cell: (row) => row.missing },
		...scores(body),
		{
			key: "median",
			label: "growth percentile",
			edge: true,
			cell: (row) => between(row.median, row.median_low, row.median_high, 0),
		},
		{
			key: "span",
			label: "from similar starters",
			className: "whitespace-nowrap",
			cell: (row) => (
				<span
					className={tone(row.verdict ?? "none")}
					title={meaning({ verdict: row.verdict ?? "none" })}
				>
					{between(row.span, row.low, row.high, 1)} {SYMBOL[row.verdict ?? "none"]}
				</span>
			),
		},
		...body.goals.map((goal) => ({
			key: goal,
			group: "met the growth",
			label: goal,
			cell: (row: Row) => met(row, goal, open),
		})),
		...fell(open),
	];
}

function scores(body: Schemas["GrowthBody"]): Column<Row>[] {
	const side = (group: string, label: string, cell: (row: Row) => string): Column<Row> => ({
		key: `${group} ${label}`,
		group,
		label,
		cell,
	});
	return [
		side("mean score", body.before, (row) => figure(row.then_score)),
		side("mean score", body.now, (row) => figure(row.now_score)),
		side("mean score", "change", (row) => signed(row.change)),
		side("mean national rank", body.before, (row) => figure(row.then_rank, 0)),
		side("mean national rank", body.now, (row) => figure(row.now_rank, 0)),
	];
}

function met(row: Row, goal: string, open: Opens): ReactNode {
	const one = row.met?.find((held) => held.goal === goal);
	if (!one || one.share == null) return "–";
	return (
		<Opening mark={one.opens} open={open}>
			{one.n} of {one.of} {between(one.share, one.low, one.high, "percent")}
		</Opening>
	);
}

function fell(open: Opens): Column<Row>[] {
	const group = "rank fell though the score rose";
	return [
		{
			key: "fell",
			group,
			label: "students",
			cell: ({ fell }) =>
				fell ? (
					<Opening mark={fell.opens} open={open}>
						{fell.n} of {fell.of}
					</Opening>
				) : (
					"–"
				),
		},
		{ key: "alone", group, label: "error alone", cell: ({ fell }) => percent(fell?.alone) || "–" },
		{
			key: "beyond",
			group,
			label: "beyond error",
			cell: ({ fell }) =>
				fell ? (
					<Opening mark={fell.beyond.opens} open={open}>
						{fell.beyond.n}
						{fell.beyond_alone != null && (
							<small className="text-muted"> (error alone {figure(fell.beyond_alone)})</small>
						)}
					</Opening>
				) : (
					"–"
				),
		},
	];
}

interface OpeningProps {
	mark: Open | null | undefined;
	open: Opens;
	children: ReactNode;
}

function Opening({ mark, open, children }: OpeningProps) {
	if (!mark) return <span>{children}</span>;
	return (
		<button type="button" className="hover:underline" onClick={() => open(mark)}>
			{children}
		</button>
	);
}

function between(
	value: number | null | undefined,
	low: number | null | undefined,
	high: number | null | undefined,
	how: number | "percent",
): ReactNode {
	if (value == null) return "–";
	const said = (one: number | null | undefined) =>
		how === "percent" ? percent(one) : figure(one, how);
	return (
		<>
			{said(value)}
			<span className="block text-[11px] text-muted">
				{said(low)} to {said(high)}
			</span>
		</>
	);
}

import type { Row } from "../../api/client";
import { AsOf } from "../../charts/AsOf";
import { figure, range, signed } from "../../lib/numbers";
import { meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { DataTable, type Column as Shown } from "../../ui/DataTable";

type Key =
	| "n"
	| "missing"
	| "mean"
	| "sd"
	| "q1"
	| "median"
	| "q3"
	| "yardstick"
	| "span"
	| "low"
	| "effect"
	| "bound_low"
	| "stable_value"
	| "reliability"
	| "rank";
interface Column {
	key: Key;
	label: string;
	against?: boolean;
	/** Shown only where some row has it. */
	rare?: boolean;
	show: (row: Row) => string;
}
const COLUMNS: Column[] = [
	{ key: "n", label: "n", show: (row) => figure(row.n, 0) },
	{ key: "missing", label: "missing", show: (row) => figure(row.missing, 0) },
	{ key: "mean", label: "mean", show: (row) => figure(row.mean) },
	{ key: "sd", label: "sd", show: (row) => figure(row.sd) },
	{ key: "q1", label: "lower quarter", show: (row) => figure(row.q1) },
	{ key: "median", label: "median", show: (row) => figure(row.median) },
	{ key: "q3", label: "upper quarter", show: (row) => figure(row.q3) },
	{ key: "yardstick", label: "expected", against: true, show: (row) => figure(row.yardstick) },
	{ key: "span", label: "span", against: true, show: (row) => signed(row.span) },
	{ key: "low", label: "95% interval", show: (row) => range(row.low, row.high) },
	{ key: "effect", label: "in sd", against: true, show: (row) => signed(row.effect, 2) },
	{
		key: "bound_low",
		label: "with the missing",
		rare: true,
		show: (row) => range(row.bound_low, row.bound_high),
	},
	{
		key: "stable_value",
		label: "of who stayed",
		rare: true,
		show: (row) => figure(row.stable_value),
	},
	{
		key: "reliability",
		label: "reliability",
		rare: true,
		show: (row) =>
			figure(row.reliability, 2) + (row.firmness === "indicative" ? ", indicative" : ""),
	},
	{
		key: "rank",
		label: "rank, 95%",
		rare: true,
		show: (row) => (row.rank ? `${row.rank[0]} (${row.rank[1]} to ${row.rank[2]})` : ""),
	},
];

/** The lens Table: every figure of every row; a head sorts, a row opens its students. */
export function Table({ answer, question, ask, open }: LensProps) {
	if (answer.body.show !== "table") return null;
	const body = answer.body;
	const rows = [...body.reference, ...body.rows];
	const figures = COLUMNS.filter(
		(column) =>
			(!column.against || question.against) &&
			(!column.rare || body.rows.some((row) => row[column.key] != null)),
	);
	const name: Shown<Row> = {
		key: "label",
		label: body.within ? `${body.dimension}, ${body.within}` : body.dimension,
		side: "left",
		className: "whitespace-nowrap",
		cell: (row) => <RowName row={row} open={open} />,
	};
	const sort = question.sort?.[0];
	return (
		<DataTable
			caption={answer.sentence}
			rows={rows}
			keyOf={(row, at) => `${row.key} ${at}`}
			columns={[
				name,
				...figures.map((column) => ({
					key: column.key,
					label: column.label,
					className: "whitespace-nowrap",
					cell: (row: Row) => (
						<>
							{column.show(row)}
							{column.key === "span" && <Verdict row={row} />}
						</>
					),
				})),
			]}
			sorted={sort && { by: sort.by, dir: sort.dir ?? "asc" }}
			sort={(by) => ask({ ...question, sort: [by] })}
			rowClass={(row) => (row.pinned ? "bg-wash font-semibold" : "")}
		/>
	);
}

function RowName({ row, open }: { row: Row; open: LensProps["open"] }) {
	const { opens } = row;
	if (!opens)
		return (
			<>
				{row.label}
				<AsOf day={row.as_of} />
			</>
		);
	return (
		<button type="button" className="hover:underline" onClick={() => open(opens)}>
			{row.label}
		</button>
	);
}

function Verdict({ row }: { row: Row }) {
	const verdict = row.verdict ?? "none";
	return (
		<span className={`ml-1 inline-block w-3.5 text-center ${tone(verdict)}`} title={meaning(row)}>
			<span aria-hidden="true">{SYMBOL[verdict]}</span>
			<span className="sr-only">{meaning(row)}</span>
		</span>
	);
}

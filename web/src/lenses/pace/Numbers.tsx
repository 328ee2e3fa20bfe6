import type { Schemas } from "../../api/client";
import { figure, percent, range } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";

type Row = Schemas["PaceRow"];

const MADE: [number, string][] = [
	[-2, "−2 or less"],
	[-1, "−1"],
	[0, "0"],
	[1, "+1"],
	[2, "+2 or more"],
];

/** Every figure of the groups. */
export function Numbers({ answer, open }: LensProps) {
	const body = answer.body;
	if (body.show !== "pace") return null;
	return (
		<DataTable
			caption={answer.sentence}
			rows={[...body.reference, ...body.rows]}
			keyOf={(row) => `${row.pinned} ${row.key}`}
			columns={columns(body, open)}
		/>
	);
}

function columns(body: Schemas["PaceBody"], open: LensProps["open"]): Column<Row>[] {
	const told = (key: "pace" | "ends", label: string): Column<Row> => ({
		key,
		label,
		edge: true,
		cell: (row) => (
			<>
				{figure(row[key].mean) || "–"}
				<span className="block text-[11px] text-muted">
					{range(row[key].low, row[key].high)} n {row[key].n}
				</span>
			</>
		),
	});
	return [
		{ key: "label", label: body.dimension, side: "left", cell: (row) => row.label },
		{ key: "n", label: "n", cell: (row) => row.n },
		{ key: "missing", label: "missing", cell: (row) => row.missing },
		...MADE.map(([steps, label]) => ({
			key: `made ${steps}`,
			group: `steps made since ${body.before}`,
			label,
			cell: (row: Row) => <Made row={row} steps={steps} open={open} />,
		})),
		{
			key: "share",
			label: `${body.wanted} or more`,
			edge: true,
			cell: (row) =>
				row.share == null ? (
					"–"
				) : (
					<>
						{percent(row.share)}
						<span className="block text-[11px] text-muted">
							{percent(row.low)} to {percent(row.high)}
						</span>
					</>
				),
		},
		{ key: "steps", label: "mean steps", cell: (row) => figure(row.steps, 2) || "–" },
		told("pace", `${body.unit} a year`),
		told("ends", "ends at"),
	];
}

function Made({ row, steps, open }: { row: Row; steps: number; open: LensProps["open"] }) {
	const one = row.made?.find((held) => held.steps === steps);
	const mark = one?.opens;
	if (!one) return "–";
	if (!mark) return <span>{one.n}</span>;
	return (
		<button type="button" className="hover:underline" onClick={() => open(mark)}>
			{one.n}
		</button>
	);
}

import type { Schemas } from "../../api/client";
import { emptyRow, LINES, outer, type RuleRow, type Written, withoutRow, withRow } from "./rule";

interface Props {
	written: Written;
	set: (written: Written) => void;
	/** What credit records name, by column. */
	names: Record<string, string[]>;
	troubles: readonly Schemas["RowTrouble"][];
}

/** A line for each condition; several of a column are parted by bars. */
export function Lines({ written, set, names, troubles }: Props) {
	return (
		<div className="overflow-x-auto">
			<table className="text-[13px]">
				<caption className="sr-only">Conditions; several names of one cell parted by bars</caption>
				<thead className="text-left text-xs text-muted">
					<tr>
						{HEADINGS.map((head) => (
							<th key={head} scope="col" className="px-1 pb-1 font-semibold">
								{head}
							</th>
						))}
						<th />
					</tr>
				</thead>
				<tbody>
					{written.rows.map((row, at) => (
						<Line
							// biome-ignore lint/suspicious/noArrayIndexKey: a line has no other identity
							key={at}
							{...{ row, names }}
							inside={outer(written).filter((one) => one !== row.condition)}
							trouble={troubles.find((one) => one.row === at)?.why}
							change={(to) => set(withRow(written, at, to))}
							remove={() => set(withoutRow(written, at))}
						/>
					))}
				</tbody>
			</table>
			{Object.entries(names).map(([column, known]) => (
				<datalist key={column} id={`known-${column}`}>
					{known.map((one) => (
						<option key={one} value={one} />
					))}
				</datalist>
			))}
			<button
				type="button"
				className="btn btn-outline btn-sm mt-2"
				onClick={() => set({ ...written, rows: [...written.rows, emptyRow()] })}
			>
				Add a condition
			</button>
		</div>
	);
}

const HEADINGS = [
	"condition",
	"asks for",
	"credits",
	"in subjects",
	"subject",
	"level",
	"kind",
	"result",
	"standards",
	"within",
	"grade",
];

interface LineProps {
	row: RuleRow;
	names: Record<string, string[]>;
	inside: readonly string[];
	trouble: string | undefined;
	change: (to: Partial<RuleRow>) => void;
	remove: () => void;
}

function Line({ row, inside, trouble, change, remove }: LineProps) {
	const of = row.condition || "this condition";
	const text = (key: "subject" | "level" | "kind" | "result", width: string) => (
		<td className="px-1 py-0.5">
			<input
				className={`input input-sm ${width}`}
				aria-label={`${key} of ${of}`}
				list={`known-${key}`}
				value={row[key] ?? ""}
				disabled={Boolean(row.joins)}
				onChange={(event) => change({ [key]: event.target.value })}
			/>
		</td>
	);
	const number = (key: "credits" | "subjects", label: string) => (
		<td className="px-1 py-0.5">
			<input
				className="input input-sm w-16"
				type="number"
				min="0"
				step="any"
				aria-label={`${label} of ${of}`}
				value={row[key] ?? ""}
				disabled={Boolean(row.joins)}
				onChange={(event) =>
					change({ [key]: event.target.value === "" ? null : Number(event.target.value) })
				}
			/>
		</td>
	);
	return (
		<tr className={trouble ? "bg-amber-wash" : ""} title={trouble}>
			<td className="px-1 py-0.5">
				<input
					className="input input-sm w-32"
					aria-label="name of the condition"
					value={row.condition}
					onChange={(event) => change({ condition: event.target.value })}
				/>
			</td>
			<td className="px-1 py-0.5">
				<select
					className="select select-sm w-[168px]"
					aria-label={`what ${of} asks for`}
					value={row.joins ?? ""}
					onChange={(event) => change(cleared(event.target.value))}
				>
					{LINES.map((one) => (
						<option key={one.joins} value={one.joins}>
							{one.words}
						</option>
					))}
				</select>
			</td>
			{number("credits", "credits")}
			{number("subjects", "number of subjects")}
			{text("subject", "w-28")}
			{text("level", "w-14")}
			{text("kind", "w-20")}
			{text("result", "w-28")}
			<td className="px-1 py-0.5">
				<input
					className="input input-sm w-32"
					aria-label={`standards of ${of}`}
					list="known-standard"
					value={row.standards ?? ""}
					disabled={row.joins === "any" || row.joins === "all"}
					onChange={(event) => change({ standards: event.target.value })}
				/>
			</td>
			<td className="px-1 py-0.5">
				<select
					className="select select-sm w-24"
					aria-label={`within which condition ${of} stands`}
					value={row.within ?? ""}
					onChange={(event) => change({ within: event.target.value })}
				>
					<option value="">–</option>
					{inside.map((one) => (
						<option key={one}>{one}</option>
					))}
				</select>
			</td>
			<td className="px-1 py-0.5">
				<input
					className="input input-sm w-20"
					aria-label={`grade that ${of} is for`}
					value={row.grade ?? ""}
					onChange={(event) => change({ grade: event.target.value })}
				/>
			</td>
			<td className="px-1">
				<button
					type="button"
					className="px-1 text-muted hover:text-behind"
					aria-label={`Take ${of} away`}
					onClick={remove}
				>
					×
				</button>
			</td>
		</tr>
	);
}

/** What a line that asks for something else no longer says. */
function cleared(joins: string): Partial<RuleRow> {
	if (!joins) return { joins };
	const rest = { credits: null, subjects: null, subject: "", level: "", kind: "", result: "" };
	return joins === "once" ? { joins, ...rest } : { joins, ...rest, standards: "" };
}

import { Link } from "@tanstack/react-router";
import { type ReactNode, useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useSession } from "../../api/session";
import { count, figure } from "../../lib/numbers";
import { type Column, DataTable, type Sorted } from "../../ui/DataTable";
import { StudentCell, shade, TotalCell } from "./cells";
import type { Shown } from "./columns";
import { FileLine } from "./FileLine";

interface Props {
	body: Schemas["StudentsBody"];
	order: readonly Sorted[];
	setOrder: (order: Sorted, more: boolean) => void;
	/** How many rows there are, and how many students. */
	total: number;
	students: number;
	says: string[];
	/** Whether to show the file and line that each score came from. */
	traced: boolean;
	/** The list in which one stands, so that a student's page leads back to it. */
	list?: number | undefined;
	/** What stands in the column of notes; else what was noted. */
	note?: (student: number, words: string) => ReactNode;
}

/** Said once in the heading where all have the same; a column only where they differ. */
const COMMON = ["school", "year_level", "reason"];

/** A row: the student's opaque id, and the place in the columns. */
interface Student {
	id: number;
	at: number;
}

/** Students as rows; sorted by the server, so that the first are the first of all. */
export function Listing(props: Props) {
	const { body, order, setOrder, total, students, says, traced } = props;
	const person = useSession();
	const [opened, setOpened] = useState<number>();
	const mayOpen = person.data?.role === "data_lead";
	const shown = useMemo(() => body.columns.filter((one) => isShown(one, traced)), [body, traced]);
	const rows = useMemo(() => body.student.map((id, at): Student => ({ id, at })), [body]);
	const groups = body.groups ?? [];
	const group = (row: Student) => groups[body.in_group?.[row.at] ?? -1];
	const find = (key: string) => shown.find((one) => one.key === key);
	const origin = ({ id, at }: Student) =>
		mayOpen && body.origins[at]
			? { opened: opened === id, open: () => setOpened(opened === id ? undefined : id) }
			: undefined;
	return (
		<div className="print-flow mt-2 flex min-h-0 flex-1 flex-col px-4 pb-4">
			<DataTable
				caption={count(new Set(body.student).size, "student")}
				rows={rows}
				keyOf={(row) => `${row.id} ${body.in_group?.[row.at] ?? ""}`}
				columns={shown.map((column) => columnOf(column, origin, props))}
				sorted={order}
				sort={setOrder}
				rowClass={({ at }) =>
					body.focus?.[at]
						? "font-semibold [&>:first-child]:border-l-[3px] [&>:first-child]:border-amber"
						: ""
				}
				below={({ id, at }) => {
					const line = opened === id && traced ? body.origins[at] : undefined;
					return line ? <FileLine origin={line} /> : undefined;
				}}
				{...(groups.length > 0 && {
					under: (row: Student) => {
						const mine = group(row);
						return mine ? `${mine.label} · ${mine.n}` : "";
					},
					underCell: (row: Student, key: string) => {
						const column = find(key);
						const one = column?.by_group?.[body.in_group?.[row.at] ?? -1];
						return column && one && <TotalCell column={column} total={one} />;
					},
				})}
				foot={(key) => {
					if (key === "name") return count(students, "student");
					const column = find(key);
					return column?.total && <TotalCell column={column} total={column.total} />;
				}}
			/>
			<p className="pt-2 text-xs text-muted">{says.join(" ")}</p>
			{total > body.student.length && (
				<p className="pt-2 text-muted">
					The first {figure(body.student.length, 0)} of {count(total, "row")}; the export has all.
				</p>
			)}
		</div>
	);
}

function isShown(column: Shown, traced: boolean): boolean {
	if (column.key === "origin") return traced;
	// What the groups are called stands above them.
	if (column.key.startsWith("split_") && column.by_group?.length) return false;
	return column.asked != null || !COMMON.includes(column.key) || new Set(column.values).size > 1;
}

interface Origin {
	opened: boolean;
	/** Shows or hides the file's own line. */
	open: () => void;
}

function columnOf(
	column: Shown,
	origin: (row: Student) => Origin | undefined,
	{ list, note }: Pick<Props, "list" | "note">,
): Column<Student> {
	const text = column.kind === "text" && !column.away;
	return {
		key: column.key,
		label: headOf(column),
		...(column.group && { group: column.group }),
		side: column.kind === "verdict" ? "centre" : text ? "left" : "right",
		look: (row) => shade(column.tone?.[row.at]),
		cell: (row) => {
			const traced = column.key === "origin" ? origin(row) : undefined;
			const words = String(column.values[row.at] ?? "");
			if (traced) return <Traced {...traced} words={words} />;
			if (column.key === "name")
				return (
					<Link
						to="/people/student/$id"
						params={{ id: String(row.id) }}
						search={list ? { list } : {}}
						className="whitespace-nowrap hover:underline"
					>
						{words}
					</Link>
				);
			if (column.asked === "notes" && note) return note(row.id, words);
			return <StudentCell column={column} at={row.at} />;
		},
	};
}

function headOf(column: Shown): ReactNode {
	if (column.kind === "verdict") return <span className="sr-only">Verdict</span>;
	const words = column.group ? column.short || column.label : column.label;
	return column.of_label ? `${words}, of ${column.of_label.toLowerCase()}` : words;
}

function Traced({ opened, open, words }: Origin & { words: string }) {
	return (
		<button
			type="button"
			className="text-left text-ahead hover:underline"
			aria-expanded={opened}
			onClick={open}
		>
			{words}
		</button>
	);
}

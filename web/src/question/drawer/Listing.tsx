import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useSession } from "../../api/session";
import { count, figure, signed } from "../../lib/numbers";
import { MEANING, SYMBOL, tone } from "../../lib/verdicts";
import { levelName } from "../../lib/words";
import { type Column, DataTable, type Sorted } from "../../ui/DataTable";
import { FileLine } from "./FileLine";

interface Props {
	body: Schemas["StudentsBody"];
	order: Sorted | undefined;
	setOrder: (order: Sorted) => void;
	total: number;
	says: string[];
	/** Whether to show the file and line that each score came from. */
	traced: boolean;
}

/** Said once in the heading where all have the same; a column only where they differ. */
const COMMON = ["school", "year_level", "reason"];

/** A student: the opaque id and the place in the columns. */
interface Student {
	id: number;
	at: number;
}

/** Students as rows; sorted by the server, so that the first are the first of all. */
export function Listing({ body, order, setOrder, total, says, traced }: Props) {
	const person = useSession();
	const [opened, setOpened] = useState<number>();
	const mayOpen = person.data?.role === "data_lead";
	const columns = body.columns.filter(
		(column) =>
			!(COMMON.includes(column.key) && new Set(column.values).size < 2) &&
			(traced || column.key !== "origin"),
	);
	const origin = ({ id, at }: Student) =>
		mayOpen && body.origins[at]
			? { opened: opened === id, open: () => setOpened(opened === id ? undefined : id) }
			: undefined;
	return (
		<div className="print-flow mt-2 flex min-h-0 flex-1 flex-col px-4 pb-4">
			<DataTable
				caption={count(body.student.length, "student")}
				rows={body.student.map((id, at): Student => ({ id, at }))}
				keyOf={(row) => String(row.id)}
				named={false}
				columns={columns.map((column) => shown(column, origin))}
				sorted={order}
				sort={setOrder}
				below={({ id, at }) => {
					const line = opened === id && traced ? body.origins[at] : undefined;
					return line ? <FileLine origin={line} /> : undefined;
				}}
			/>
			<p className="pt-2 text-xs text-muted">{says.join(" ")}</p>
			{total > body.student.length && (
				<p className="pt-2 text-muted">
					The first {count(body.student.length, "student")} of {figure(total, 0)}; the export has
					all.
				</p>
			)}
		</div>
	);
}

interface Origin {
	opened: boolean;
	/** Shows or hides the file's own line. */
	open: () => void;
}

function shown(
	column: Schemas["StudentColumn"],
	origin: (row: Student) => Origin | undefined,
): Column<Student> {
	const side = { text: "left", verdict: "centre" } as const;
	return {
		key: column.key,
		label: column.label || <span className="sr-only">Verdict</span>,
		side: column.kind in side ? side[column.kind as keyof typeof side] : "right",
		cell: (row) => {
			const value = column.values[row.at];
			const traced = column.key === "origin" ? origin(row) : undefined;
			if (traced) return <Traced {...traced} words={String(value ?? "")} />;
			if (column.kind === "verdict") return <Verdict word={String(value ?? "")} />;
			if (column.kind === "text") return String(value ?? "");
			if (column.key === "year_level" && typeof value === "number") return levelName(value);
			const number = typeof value === "number" ? value : null;
			if (column.kind === "signed") return signed(number);
			return figure(number, number !== null && Number.isInteger(number) ? 0 : 1);
		},
	};
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

function Verdict({ word }: { word: string }) {
	return (
		<span className={tone(word)}>
			<span aria-hidden="true">{SYMBOL[word]}</span>
			<span className="sr-only">{MEANING[word] ? word : ""}</span>
		</span>
	);
}

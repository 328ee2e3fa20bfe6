import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { Fragment, useEffect, useRef, useState } from "react";
import {
	type Answer,
	client,
	downloadCsv,
	type Question,
	type Schemas,
	unwrap,
} from "../../api/client";
import { useSession } from "../../app/session";
import { count, figure, signed } from "../../lib/numbers";
import { MEANING, SYMBOL, tone } from "../../lib/verdicts";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { FileLine } from "./FileLine";
import type { Order } from "./question";
import { SaveGroup } from "./SaveGroup";

interface Props {
	question: Question;
	/** Narrow the whole page to the students shown. */
	narrow: (question: Question) => void;
	order: Order | undefined;
	setOrder: (order: Order) => void;
	close: () => void;
}

/** The students behind a mark, from the right; the chart stays in view. */
export function Drawer({ question, narrow, order, setOrder, close }: Props) {
	const shut = useRef<HTMLButtonElement>(null);
	const [error, setError] = useState<unknown>();
	const [traced, setTraced] = useState(false);
	useEffect(() => shut.current?.focus(), []);
	const found = useQuery({
		queryKey: ["answer", question],
		queryFn: () => unwrap(client.POST("/api/answers", { body: question })),
		placeholderData: (before) => before,
	});
	const answer = found.data;
	const narrowed = answer?.narrowed;
	return (
		<aside
			aria-label="Students"
			className="slide-in print-flow absolute inset-y-0 right-0 z-20 flex w-[min(660px,62vw)] flex-col border-l border-line bg-white shadow-xl"
		>
			<div className="flex flex-col gap-2 px-4 pt-3">
				<div>
					<h2 className="text-base font-bold">{answer ? heading(answer) : "Students"}</h2>
					<p className="text-[13px] text-muted">
						{answer &&
							`${answer.chips.map((chip) => chip.text).join(" · ")}${answer.chips.length ? " · " : ""}${answer.slots.what}`}
					</p>
				</div>
				<div className="no-print flex items-center gap-2">
					{narrowed && (
						<button
							type="button"
							className="btn btn-primary btn-sm"
							onClick={() => narrow(narrowed)}
						>
							Narrow to these
						</button>
					)}
					<Popover
						label="Save these students as a group"
						title="Save as a group"
						width={300}
						className="btn btn-outline btn-sm"
						trigger="Group"
					>
						{() => <SaveGroup question={question} />}
					</Popover>
					<button
						type="button"
						className="btn btn-outline btn-sm"
						onClick={() => downloadCsv(everyPage(question)).catch(setError)}
					>
						Export
					</button>
					<button
						type="button"
						className="btn btn-outline btn-sm"
						aria-pressed={traced}
						onClick={() => setTraced(!traced)}
					>
						{traced ? "Hide origin" : "Show origin"}
					</button>
					<button type="button" className="btn btn-outline btn-sm" onClick={() => window.print()}>
						Print
					</button>
					<button
						ref={shut}
						type="button"
						className="btn btn-ghost btn-sm absolute top-2 right-3 px-2"
						aria-label="Close"
						onClick={close}
					>
						<X size={16} aria-hidden="true" />
					</button>
				</div>
			</div>
			{error !== undefined && <Trouble error={error} />}
			{found.isError && <Trouble error={found.error} />}
			{!answer && !found.isError && <Waiting what="Looking them up" />}
			{answer?.body.show === "students" && (
				<Listing
					body={answer.body}
					order={order}
					setOrder={setOrder}
					total={answer.page?.total ?? 0}
					says={answer.method.says}
					traced={traced}
				/>
			)}
		</aside>
	);
}

/** The list whole, for a file. */
function everyPage(question: Question): Question {
	const { open } = question;
	return open ? { ...question, open: { ...open, page: { size: 1_000_000, after: 0 } } } : question;
}

function heading(answer: Answer): string {
	const coverage = answer.coverage[0];
	if (!coverage) return "Students";
	const left = coverage.population - coverage.counted;
	return (
		count(coverage.population, "student") +
		(left && coverage.counted ? `, ${left} not counted` : "")
	);
}

interface ListingProps extends Pick<Props, "order" | "setOrder"> {
	body: Schemas["StudentsBody"];
	total: number;
	says: string[];
	/** Whether to show the file and line that each score came from. */
	traced: boolean;
}

function Listing({ body, order, setOrder, total, says, traced }: ListingProps) {
	const person = useSession();
	const [opened, setOpened] = useState<number>();
	const mayOpen = person.data?.role === "data_lead";
	const columns = body.columns.filter(
		(column) =>
			!(COMMON.includes(column.key) && new Set(column.values).size < 2) &&
			(traced || column.key !== "origin"),
	);
	return (
		<div className="print-flow mt-2 min-h-0 flex-1 overflow-auto px-4 pb-4">
			<table className="w-full text-[13px]">
				<thead className="sticky top-0 bg-white">
					<tr className="border-b border-line">
						{columns.map((column) => (
							<Head key={column.key} column={column} order={order} setOrder={setOrder} />
						))}
					</tr>
				</thead>
				<tbody>
					{body.student.map((id, row) => (
						<Fragment key={id}>
							<tr className="border-b border-line/60">
								{columns.map((column) => (
									<Cell
										key={column.key}
										column={column}
										value={column.values[row]}
										opened={opened === id}
										open={
											column.key === "origin" && mayOpen && body.origins[row]
												? () => setOpened(opened === id ? undefined : id)
												: undefined
										}
									/>
								))}
							</tr>
							{opened === id && traced && body.origins[row] && (
								<FileLine origin={body.origins[row]} width={columns.length} />
							)}
						</Fragment>
					))}
				</tbody>
			</table>
			<p className="py-2 text-xs text-muted">{says.join(" ")}</p>
			{total > body.student.length && (
				<p className="py-2 text-muted">
					The first {count(body.student.length, "student")} of {figure(total, 0)}; the export has
					all.
				</p>
			)}
		</div>
	);
}

/** Said once in the heading where all have the same; a column only where they differ. */
const COMMON = ["school", "year_level", "reason"];

type Column = Schemas["StudentColumn"];

function Head({ column, order, setOrder }: { column: Column } & Pick<Props, "order" | "setOrder">) {
	const mine = order?.by === column.key;
	const next = mine && order?.dir === "asc" ? "desc" : "asc";
	const side = column.kind === "text" ? "text-left" : "text-right";
	return (
		<th
			scope="col"
			className={`py-1.5 pr-2 font-semibold text-muted ${side}`}
			aria-sort={mine ? (order?.dir === "asc" ? "ascending" : "descending") : undefined}
		>
			<button
				type="button"
				className="hover:text-ink"
				onClick={() => setOrder({ by: column.key, dir: next })}
			>
				{column.label || <span className="sr-only">Verdict</span>}
				{mine && <span aria-hidden="true">{order?.dir === "asc" ? " ↑" : " ↓"}</span>}
			</button>
		</th>
	);
}

interface CellProps {
	column: Column;
	value: unknown;
	/** Shows or hides the file's own line, where the cell says which. */
	open: (() => void) | undefined;
	opened: boolean;
}

function Cell({ column, value, open, opened }: CellProps) {
	if (open)
		return (
			<td className="py-1 pr-2">
				<button
					type="button"
					className="text-left text-ahead hover:underline"
					aria-expanded={opened}
					onClick={open}
				>
					{String(value ?? "")}
				</button>
			</td>
		);
	if (column.kind === "verdict") {
		const word = String(value ?? "");
		return (
			<td className={`py-1 pr-2 text-center ${tone(word)}`}>
				<span aria-hidden="true">{SYMBOL[word]}</span>
				<span className="sr-only">{MEANING[word] ? word : ""}</span>
			</td>
		);
	}
	if (column.kind === "text") return <td className="py-1 pr-2">{String(value ?? "")}</td>;
	const number = value as number | null;
	const decimals = number !== null && Number.isInteger(number) ? 0 : 1;
	return (
		<td className="py-1 pr-2 text-right">
			{column.kind === "signed" ? signed(number) : figure(number, decimals)}
		</td>
	);
}

import { ArrowDown, ArrowUp, ListFilter, X } from "lucide-react";
import { type DragEvent, type ReactNode, useState } from "react";
import type { Catalogue, Question } from "../../api/client";
import { later } from "../../lib/later";
import {
	type Column,
	columnKey,
	moved,
	offersOf,
	toggledColumn,
	usualColumns,
	withIds,
	wordsOf,
} from "../../question/listing/columns";
import { conditions, withConditions } from "../../question/model/question";
import { splitKey, splitsOf } from "../../question/model/splits";
import { Popover } from "../../ui/Popover";

const ConditionForm = later(
	async () => (await import("../../question/pickers/ConditionForm")).ConditionForm,
);

const PickList = later(async () => (await import("../../ui/PickList")).PickList);

interface Props {
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
}

/** What a list shows: its columns in their order, what its rows stand under, who is highlighted. */
export function ListColumns({ question, catalogue, ask }: Props) {
	const chosen = (question.columns ?? []).map((one) => withIds(one, catalogue));
	const columns = chosen.length
		? chosen
		: usualColumns(question).map((one) => withIds(one, catalogue));
	const offers = offersOf(catalogue);
	const put = (next: Column[]) => ask({ ...question, columns: next, sort: [] });
	const move = (from: number, to: number) =>
		ask({ ...question, columns: moved(columns, from, to) });
	return (
		<>
			<p className="mt-5 mb-1 text-xs font-semibold text-muted">Columns</p>
			<ol aria-label="Columns">
				<li className="px-2 py-0.5 text-[13px] text-muted">student, number</li>
				{chosen.length === 0 && (
					<li className="px-2 py-0.5 text-[13px] text-muted">what is usual for its test</li>
				)}
				{chosen.map((column, at) => (
					<Line
						key={columnKey(column)}
						words={wordsOf(column, catalogue, offers)}
						at={at}
						last={chosen.length - 1}
						move={move}
						filter={(close) => <Filter {...{ column, question, catalogue, close }} narrow={ask} />}
						remove={() => put(chosen.filter((_, place) => place !== at))}
					/>
				))}
			</ol>
			<Popover
				label="Add a column"
				title="Columns"
				width={460}
				className="px-2 text-[13px] font-semibold text-ahead hover:underline"
				trigger="+ column"
			>
				{() => (
					<PickList
						label="columns"
						focus
						height={420}
						picks={offers.map((one) => ({
							key: one.key,
							words: one.words,
							group: one.group,
							ticks: true,
							chosen: columns.some((column) => columnKey(column) === one.key),
							pick: () => put(toggledColumn(columns, one.column)),
						}))}
					/>
				)}
			</Popover>
			<Grouping {...{ question, catalogue, ask }} />
			<Highlight {...{ question, catalogue, ask }} />
		</>
	);
}

interface LineProps {
	words: string;
	at: number;
	last: number;
	move: (from: number, to: number) => void;
	/** What narrows the list by the column. */
	filter: (close: () => void) => ReactNode;
	remove: () => void;
}

interface FilterProps {
	column: Column;
	question: Question;
	catalogue: Catalogue;
	narrow: (question: Question) => void;
	close: () => void;
}

/** Whom the list shows, by one of its columns. */
function Filter({ column, question, catalogue, narrow, close }: FilterProps) {
	const measure = typeof column === "object" && "measure" in column ? column.measure : undefined;
	const derived = measure && "derive" in measure && measure.derive === "span";
	return (
		<ConditionForm
			catalogue={catalogue}
			question={measure ? { ...question, what: [measure] } : question}
			by={measure ? (derived ? "span" : "score") : fieldOf(column)}
			word="Narrow"
			add={(one) => {
				narrow(withConditions(question, [...conditions(question), one]));
				close();
			}}
		/>
	);
}

function fieldOf(column: Column): string {
	if (typeof column === "string") return "score";
	if ("characteristic" in column) return `characteristic:${column.characteristic}`;
	return "field" in column ? column.field : "score";
}

/** A column: dragged to its place, or moved by its buttons. */
function Line({ words, at, last, move, filter, remove }: LineProps) {
	const [over, setOver] = useState(false);
	const button = "rounded p-0.5 text-muted hover:bg-amber-wash hover:text-ink";
	function drop(event: DragEvent): void {
		event.preventDefault();
		setOver(false);
		const from = Number(event.dataTransfer.getData("text/plain"));
		if (Number.isInteger(from)) move(from, at);
	}
	return (
		<li
			draggable
			onDragStart={(event) => event.dataTransfer.setData("text/plain", String(at))}
			onDragOver={(event) => {
				event.preventDefault();
				setOver(true);
			}}
			onDragLeave={() => setOver(false)}
			onDrop={drop}
			className={`group flex cursor-grab items-center gap-0.5 rounded px-2 py-0.5 text-[13px] hover:bg-paper ${over ? "border-t-2 border-amber" : ""}`}
		>
			<span aria-hidden="true" className="mr-1 text-muted">
				≡
			</span>
			<span className="min-w-0 flex-1">{words}</span>
			{at > 0 && (
				<button
					type="button"
					className={button}
					aria-label={`${words}: further to the left`}
					onClick={() => move(at, at - 1)}
				>
					<ArrowUp size={12} aria-hidden="true" />
				</button>
			)}
			{at < last && (
				<button
					type="button"
					className={button}
					aria-label={`${words}: further to the right`}
					onClick={() => move(at, at + 1)}
				>
					<ArrowDown size={12} aria-hidden="true" />
				</button>
			)}
			{words !== "notes" && (
				<Popover
					label={`Narrow by ${words}`}
					title={`Narrow by ${words}`}
					width={330}
					className={button}
					trigger={<ListFilter size={12} aria-hidden="true" />}
				>
					{filter}
				</Popover>
			)}
			<button type="button" className={button} aria-label={`Remove ${words}`} onClick={remove}>
				<X size={12} aria-hidden="true" />
			</button>
		</li>
	);
}

/** What the rows stand under, each heading with what its columns come to. */
function Grouping({ question, catalogue, ask }: Props) {
	const splits = splitsOf(catalogue);
	const now = splitKey(question.split?.[0]);
	return (
		<label className="mt-4 block">
			<span className="text-xs font-semibold text-muted">Grouped by</span>
			<select
				className="select select-sm w-full"
				value={now}
				onChange={(event) => {
					const found = splits.find((one) => one.key === event.target.value);
					ask({ ...question, split: found ? [found.dimension] : [] });
				}}
			>
				<option value="nothing">nothing</option>
				{splits.map((one) => (
					<option key={one.key} value={one.key}>
						{one.label}
					</option>
				))}
			</select>
		</label>
	);
}

/** Students that stand out while all rows stay. */
function Highlight({ question, catalogue, ask }: Props) {
	const focus = question.focus ?? [];
	return (
		<div className="mt-4">
			<p className="text-xs font-semibold text-muted">Highlight</p>
			<div className="flex items-center gap-2">
				<Popover
					label={focus.length ? "Highlight: change" : "+ highlight some students"}
					title="Highlight"
					width={330}
					className="border-l-[3px] border-amber pl-2 text-[13px] font-semibold text-ahead hover:underline"
					trigger={focus.length ? "change" : "+ highlight"}
				>
					{(close) => (
						<ConditionForm
							{...{ question, catalogue }}
							word="Highlight"
							add={(one) => {
								ask({ ...question, focus: [one] });
								close();
							}}
						/>
					)}
				</Popover>
				{focus.length > 0 && (
					<button
						type="button"
						className="text-[13px] text-ahead hover:underline"
						onClick={() => ask({ ...question, focus: null })}
					>
						stop
					</button>
				)}
			</div>
		</div>
	);
}

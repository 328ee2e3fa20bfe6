import { useState } from "react";
import type { Catalogue, Schemas } from "../../api/client";
import { capitalised, someYearLevel, yearLevels } from "../../lib/words";
import type { Spec } from "./GridPage";

type Column = Schemas["GridColumn"];

const ROLES = [
	{ key: "raw", label: "raw mark" },
	{ key: "percent", label: "percent" },
	{ key: "scaled", label: "scaled score" },
	{ key: "level", label: "level" },
	{ key: "grade", label: "grade" },
	{ key: "target", label: "target" },
	{ key: "predicted", label: "predicted" },
] as const;

interface Props {
	catalogue: Catalogue;
	open: (spec: Spec) => void;
	take: (spec: Spec, format: "xlsx" | "csv") => void;
}

/** Whose results, and which: a class or a year level, and a column per result. */
export function GridForm({ catalogue, open, take }: Props) {
	const [who, setWho] = useState("");
	const [columns, setColumns] = useState<Column[]>([blank()]);
	const full = columns.every((column) => column.test.trim() && column.sitting.trim());
	const spec = { ...whoOf(who), columns: columns.map((c) => ({ ...c, date: c.date || null })) };
	const change = (at: number, part: Partial<Column>) =>
		setColumns(columns.map((column, n) => (n === at ? { ...column, ...part } : column)));
	return (
		<form
			className="mb-4 border-b border-line pb-4"
			onSubmit={(event) => {
				event.preventDefault();
				open(spec);
			}}
		>
			<label className="mb-3 block">
				<span className="block text-[13px] font-semibold">Whose results</span>
				<select
					className="select select-sm w-80"
					value={who}
					required
					onChange={(event) => setWho(event.target.value)}
				>
					<option value="">Choose a class or {someYearLevel()}</option>
					<optgroup label="Classes">
						{catalogue.classes.map((item) => (
							<option key={item.id} value={`class:${item.id}`}>
								{item.label} ({item.n})
							</option>
						))}
					</optgroup>
					<optgroup label={`${capitalised(yearLevels())} of the district`}>
						{catalogue.year_levels.map((item) => (
							<option key={item.id} value={`year:${item.id}`}>
								{item.label} ({item.n})
							</option>
						))}
					</optgroup>
				</select>
			</label>
			{columns.map((column, at) => (
				<ColumnFields
					// biome-ignore lint/suspicious/noArrayIndexKey: a column's place is its name here
					key={at}
					n={at + 1}
					column={column}
					catalogue={catalogue}
					change={(part) => change(at, part)}
					remove={
						columns.length > 1 ? () => setColumns(columns.filter((_, n) => n !== at)) : undefined
					}
				/>
			))}
			<div className="mt-3 flex gap-2">
				<button
					type="button"
					className="btn btn-outline btn-sm"
					onClick={() => setColumns([...columns, { ...(columns.at(-1) ?? blank()), subject: "" }])}
				>
					Add a column
				</button>
				<button type="submit" className="btn btn-primary btn-sm" disabled={!full || !who}>
					Open the grid
				</button>
				{(["xlsx", "csv"] as const).map((format) => (
					<button
						key={format}
						type="button"
						className="btn btn-outline btn-sm"
						disabled={!full || !who}
						onClick={() => take(spec, format)}
					>
						Take it out as {format === "xlsx" ? "a workbook" : "CSV"}
					</button>
				))}
			</div>
		</form>
	);
}

interface FieldsProps {
	n: number;
	column: Column;
	catalogue: Catalogue;
	change: (part: Partial<Column>) => void;
	remove: (() => void) | undefined;
}

function ColumnFields({ n, column, catalogue, change, remove }: FieldsProps) {
	const names = (of: (m: Catalogue["measures"][number]) => string | null) => [
		...new Set(catalogue.measures.map(of).filter((name): name is string => Boolean(name))),
	];
	const field = "input input-sm";
	const text = (
		key: "test" | "subject" | "sitting",
		label: string,
		known: string[],
		width: string,
	) => (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<input
				className={`${field} ${width}`}
				list={`known-${key}`}
				value={column[key] ?? ""}
				required={key !== "subject"}
				onChange={(event) => change({ [key]: event.target.value })}
			/>
			<datalist id={`known-${key}`}>
				{known.map((name) => (
					<option key={name} value={name} />
				))}
			</datalist>
		</label>
	);
	return (
		<fieldset className="mb-2 flex flex-wrap items-end gap-3">
			<legend className="sr-only">Column {n}</legend>
			<span className="w-4 pb-1.5 font-semibold text-muted">{n}</span>
			{text(
				"test",
				"Test",
				names((m) => m.assessment),
				"w-44",
			)}
			{text(
				"subject",
				"Subject",
				names((m) => m.subject),
				"w-36",
			)}
			{text(
				"sitting",
				"Sitting",
				names((m) => m.sitting),
				"w-36",
			)}
			<label>
				<span className="block text-[13px] font-semibold">Holds</span>
				<select
					className="select select-sm w-36"
					value={column.role}
					onChange={(event) => change({ role: event.target.value as Column["role"] })}
				>
					{ROLES.map((role) => (
						<option key={role.key} value={role.key}>
							{role.label}
						</option>
					))}
				</select>
			</label>
			{column.role === "target" && (
				<label>
					<span className="block text-[13px] font-semibold">Which target</span>
					<input
						className={`${field} w-28`}
						value={column.kind ?? ""}
						onChange={(event) => change({ kind: event.target.value })}
					/>
				</label>
			)}
			<label>
				<span className="block text-[13px] font-semibold">Date, if new</span>
				<input
					className={`${field} w-36`}
					type="date"
					value={column.date ?? ""}
					onChange={(event) => change({ date: event.target.value })}
				/>
			</label>
			{remove && (
				<button
					type="button"
					className="btn btn-ghost btn-sm"
					aria-label={`Remove column ${n}`}
					onClick={remove}
				>
					Remove
				</button>
			)}
		</fieldset>
	);
}

function blank(): Column {
	return { test: "", subject: "", sitting: "", date: null, role: "grade", kind: "" };
}

function whoOf(who: string): Omit<Spec, "columns"> {
	const [what, id] = who.split(":");
	return {
		class_id: what === "class" ? Number(id) : null,
		school_id: null,
		year_level: what === "year" ? Number(id) : null,
	};
}

import { useState } from "react";
import type { Catalogue, Question } from "../../api/client";
import { figure } from "../../lib/numbers";
import { Tick } from "./Choice";
import { ConditionForm } from "./ConditionForm";
import { asOf, conditions, withConditions } from "./question";
import { type Field, type FieldKey, fieldsOf, toggled, valuesOf } from "./who";

interface Props {
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
}

/** Fields on the left, their values with counts on the right; every tick takes effect at once. */
export function WhoPicker({ question, catalogue, ask }: Props) {
	const fields = fieldsOf(catalogue);
	const [key, setKey] = useState<FieldKey | "score">(fields[0]?.key ?? "school");
	const field = fields.find((item) => item.key === key);
	const tab = (item: FieldKey | "score", label: string, n: number) => (
		<li key={item}>
			<button
				type="button"
				aria-pressed={item === key}
				onClick={() => setKey(item)}
				className={`flex w-full justify-between rounded px-2 py-1 text-left hover:bg-wash ${item === key ? "bg-wash font-semibold" : ""}`}
			>
				{label}
				<span className="text-xs text-amber-ink">{n || ""}</span>
			</button>
		</li>
	);
	return (
		<div className="grid grid-cols-[180px_1fr] gap-2">
			<ul className="border-r border-line pr-1">
				{fields.map((item) => tab(item.key, item.label, valuesOf(question, item.key).length))}
				{tab("score", "Score, level, group …", 0)}
			</ul>
			<div>
				{field && <Values key={field.key} field={field} question={question} ask={ask} />}
				{key === "score" && (
					<ConditionForm
						catalogue={catalogue}
						question={question}
						word="Narrow"
						add={(made) => ask(withConditions(question, [...conditions(question), made]))}
					/>
				)}
				<AsOf question={question} ask={ask} today={catalogue.today} />
			</div>
		</div>
	);
}

function Values({ field, question, ask }: { field: Field; question: Question; ask: Props["ask"] }) {
	const [search, setSearch] = useState("");
	const chosen = valuesOf(question, field.key);
	const shown = field.options.filter((option) =>
		option.label.toLowerCase().includes(search.toLowerCase()),
	);
	return (
		<fieldset>
			<legend className="mb-1 font-semibold">{field.label}</legend>
			{field.options.length > 12 && (
				<input
					className="input input-sm mb-1 w-full"
					aria-label={`Search ${field.label}`}
					placeholder="Search"
					value={search}
					onChange={(event) => setSearch(event.target.value)}
				/>
			)}
			<div className="max-h-64 overflow-auto">
				{shown.slice(0, 200).map((option) => (
					<Tick
						key={String(option.id)}
						checked={chosen.includes(option.id)}
						words={option.label}
						aside={figure(option.n, 0)}
						change={() => ask(toggled(question, field.key, option.id))}
					/>
				))}
				{shown.length > 200 && <p className="text-muted">{shown.length - 200} more: search.</p>}
			</div>
		</fieldset>
	);
}

interface AsOfProps {
	question: Question;
	ask: Props["ask"];
	today: string | null;
}

function AsOf({ question, ask, today }: AsOfProps) {
	const now = question.who?.as_of ?? "sitting";
	const choices = [
		["sitting", "as they were at the sitting"],
		["today", `as they are today${today ? ` (${today})` : ""}`],
	] as const;
	return (
		<fieldset className="mt-2 border-t border-line pt-2">
			<legend className="sr-only">As of when</legend>
			{choices.map(([value, words]) => (
				<label key={value} className="flex items-baseline gap-2 px-1 py-0.5">
					<input
						type="radio"
						name="as-of"
						className="relative top-0.5 accent-(--color-ahead)"
						checked={now === value}
						onChange={() => ask(asOf(question, value))}
					/>
					{words}
				</label>
			))}
		</fieldset>
	);
}

import { useState } from "react";
import type { Question } from "../../api/client";
import { figure } from "../../lib/numbers";
import { PickList } from "../../ui/PickList";
import { asOf, conditions, withConditions } from "../model/question";
import { type Field, type FieldKey, fieldsOf, toggled, valuesOf } from "../model/who";
import { ConditionForm } from "./ConditionForm";
import type { PickerProps } from "./picker";

/** Fields on the left, their values with counts on the right; every tick takes effect at once. */
export function WhoPicker({ question, catalogue, ask }: PickerProps) {
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
		<div className="grid grid-cols-[180px_minmax(0,1fr)] gap-2">
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

function Values({
	field,
	question,
	ask,
}: {
	field: Field;
	question: Question;
	ask: PickerProps["ask"];
}) {
	const chosen = valuesOf(question, field.key);
	return (
		<>
			<p className="mb-1 font-semibold" aria-hidden="true">
				{field.label}
			</p>
			<PickList
				label={field.label}
				focus
				picks={field.options.map((option) => ({
					key: String(option.id),
					words: option.label,
					aside: figure(option.n, 0),
					ticks: true,
					chosen: chosen.includes(option.id),
					pick: () => ask(toggled(question, field.key, option.id)),
				}))}
			/>
		</>
	);
}

interface AsOfProps {
	question: Question;
	ask: PickerProps["ask"];
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

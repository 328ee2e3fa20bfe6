import type { Catalogue, Condition, Question } from "../../api/client";
import { capitalised, yearLevel } from "../../lib/words";
import { conditions, type Id, withConditions } from "./question";

type Place = "school" | "year_level" | "class" | "teacher" | "course";
export type FieldKey = Place | `characteristic:${number}`;

export interface Field {
	key: FieldKey;
	label: string;
	options: { id: Id; label: string; n: number }[];
}

/** Everything that students can be narrowed by with ticks alone. */
export function fieldsOf(catalogue: Catalogue): Field[] {
	return [
		{ key: "year_level", label: capitalised(yearLevel()), options: catalogue.year_levels },
		{ key: "school", label: "School", options: catalogue.schools },
		{ key: "class", label: "Class", options: catalogue.classes },
		{ key: "teacher", label: "Teacher", options: catalogue.teachers },
		{ key: "course", label: "Course", options: catalogue.courses },
		...catalogue.characteristics.map((item) => ({
			key: `characteristic:${item.id}` as const,
			label: item.label,
			options: item.options,
		})),
	].filter((field) => field.options.length > 0) as Field[];
}

function isPlace(key: FieldKey): key is Place {
	return !key.startsWith("characteristic:");
}

function isOf(condition: Condition, key: FieldKey): boolean {
	if (key.startsWith("characteristic:"))
		return "characteristic" in condition && `characteristic:${condition.characteristic}` === key;
	return "field" in condition && condition.field === key && Boolean(condition.in);
}

/** The condition that a field has one of some values. */
export function conditionOf(key: FieldKey, values: Id[]): Condition {
	return isPlace(key)
		? { field: key, in: values }
		: { characteristic: Number(key.split(":")[1]), in: values };
}

/** The values that a field is narrowed to, at the top of “who”. */
export function valuesOf(question: Question, key: FieldKey): Id[] {
	const found = conditions(question).find((condition) => isOf(condition, key));
	return found && "in" in found && found.in ? (found.in as Id[]) : [];
}

/** Add a value to a field's condition, or take it away; without values the condition goes. */
export function toggled(question: Question, key: FieldKey, id: Id): Question {
	const before = valuesOf(question, key);
	const values = before.includes(id) ? before.filter((value) => value !== id) : [...before, id];
	const others = conditions(question).filter((condition) => !isOf(condition, key));
	if (values.length === 0) return withConditions(question, others);
	return withConditions(question, [...others, conditionOf(key, values)]);
}

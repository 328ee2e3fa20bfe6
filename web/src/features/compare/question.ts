import type { Catalogue, Condition, Dimension, Question } from "../../api/client";

/** What can stand before “split by”, in the order of the strip and of the [ ] keys. */
export interface SplitChoice {
	key: string;
	label: string;
	dimension: Dimension;
}

type Id = string | number | null;
export type FieldKey = "school" | "year_level" | "class" | "teacher" | `characteristic:${number}`;

export interface Field {
	key: FieldKey;
	label: string;
	options: { id: Id; label: string; n: number }[];
}

export function fieldsOf(catalogue: Catalogue): Field[] {
	return [
		{ key: "year_level", label: "Year level", options: catalogue.year_levels },
		{ key: "school", label: "School", options: catalogue.schools },
		{ key: "class", label: "Class", options: catalogue.classes },
		{ key: "teacher", label: "Teacher", options: catalogue.teachers },
		...catalogue.characteristics.map((item) => ({
			key: `characteristic:${item.id}` as const,
			label: item.label,
			options: item.options,
		})),
	].filter((field) => field.options.length > 0) as Field[];
}

export function splitsOf(catalogue: Catalogue): SplitChoice[] {
	const fields = (["school", "class", "teacher", "year_level"] as const).map((field) => ({
		key: field,
		label: { school: "school", class: "class", teacher: "teacher", year_level: "year level" }[
			field
		],
		dimension: { field } as Dimension,
	}));
	const characteristics = catalogue.characteristics.map((item) => ({
		key: `characteristic:${item.id}`,
		label: item.label,
		dimension: { characteristic: item.id } as Dimension,
	}));
	return [...fields, ...characteristics];
}

export function splitKey(dimension: Dimension | undefined): string {
	if (!dimension || typeof dimension === "string") return "nothing";
	if ("field" in dimension) return dimension.field;
	if ("characteristic" in dimension) return `characteristic:${dimension.characteristic}`;
	return "nothing";
}

/** The first question that the kept data can answer: the newest measure, by school. */
export function firstQuestion(catalogue: Catalogue): Question | undefined {
	const measure = catalogue.measures.find((item) => item.has_prior) ?? catalogue.measures[0];
	if (!measure) return undefined;
	return {
		question: 1,
		what: [measureOf(measure)],
		split: [catalogue.schools.length > 1 ? { field: "school" } : { field: "class" }],
		against: measure.has_prior ? { prior: {} } : null,
	} as Question;
}

/** How the expected outcome is fitted, if the question is held against where they started. */
export function expectOf(question: Question): string | null {
	const against = question.against;
	if (!against || !("prior" in against)) return null;
	return (against.prior as { expect?: string }).expect ?? "linear";
}

/** The yardstick “where they started”; a straight line is what needs no saying. */
export function againstStart(expect: string): Question["against"] {
	return { prior: expect === "linear" ? {} : { expect } } as Question["against"];
}

export function measureOf(measure: Catalogue["measures"][number]): Question["what"][number] {
	return {
		assessment: measure.assessment_id,
		subject: measure.subject_id,
		sitting: measure.sitting_id,
		score: measure.score,
	} as Question["what"][number];
}

export function conditions(question: Question): Condition[] {
	return question.who?.all ?? [];
}

export function withConditions(question: Question, all: Condition[]): Question {
	return { ...question, who: { ...question.who, all } } as Question;
}

function isOf(condition: Condition, key: FieldKey): boolean {
	if (key.startsWith("characteristic:"))
		return "characteristic" in condition && `characteristic:${condition.characteristic}` === key;
	return "field" in condition && condition.field === key && Boolean(condition.in);
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
	const made = key.startsWith("characteristic:")
		? { characteristic: Number(key.split(":")[1]), in: values }
		: { field: key, in: values };
	return withConditions(question, [...others, made as Condition]);
}

/** The question without the part that a chip stands for. */
export function without(question: Question, path: string): Question {
	if (path === "who.as_of") return { ...question, who: { ...question.who, as_of: "sitting" } };
	const at = Number(path.split(".").pop());
	return withConditions(
		question,
		conditions(question).filter((_, index) => index !== at),
	);
}

/** The question that lists the students behind a mark. */
export function studentsOf(
	question: Question,
	narrow: Condition[],
	order?: { by: string; dir: "asc" | "desc" },
): Question {
	return {
		...withConditions(question, [...conditions(question), ...narrow]),
		split: [],
		show: "students",
		sort: order ? [order] : [],
		page: { size: 500, after: 0 },
	} as Question;
}

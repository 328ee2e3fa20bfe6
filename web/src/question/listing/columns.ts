import type { Catalogue, Measure, Question, Schemas } from "../../api/client";
import { yearLevel } from "../../lib/words";
import { measureOf, type Order, plainOf, type Sitting } from "../model/question";

/** A column of a list, as a question writes it. */
export type Column = NonNullable<Question["columns"]>[number];
export type Shown = Schemas["StudentColumn"];

/** What tells a column from others, however much of its defaults is written out. */
export function columnKey(column: Column): string {
	return JSON.stringify(column, (key, value) => {
		const nothing = value === null || (Array.isArray(value) && value.length === 0);
		if (nothing || DEFAULTS[key] === value) return undefined;
		if (typeof value !== "object" || Array.isArray(value)) return value;
		return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)));
	});
}

/** What a measure or a start means where it says nothing. */
const DEFAULTS: Record<string, unknown> = {
	role: "result",
	score: "auto",
	attempt: "official",
	priors: "declared",
	expect: "linear",
	model: "simple",
	about: "same",
};

/** The columns with one taken to another place. */
export function moved(columns: readonly Column[], from: number, to: number): Column[] {
	const out = [...columns];
	const [one] = out.splice(from, 1);
	if (one !== undefined) out.splice(Math.max(0, Math.min(to, out.length)), 0, one);
	return out;
}

/** The columns with one more at the end; without it where it stands there already. */
export function toggledColumn(columns: readonly Column[], column: Column): Column[] {
	const key = columnKey(column);
	const left = columns.filter((one) => columnKey(one) !== key);
	return left.length < columns.length ? left : [...columns, column];
}

/** The order after a head was chosen: by it alone, or by it after what there is. */
export function orderedBy(before: readonly Order[], by: Order, more: boolean): Order[] {
	if (!more) return [by];
	const at = before.findIndex((one) => one.by === by.by);
	return at < 0 ? [...before, by] : before.map((one, place) => (place === at ? by : one));
}

/** The columns of a list of which nobody said what it shows, as somebody would choose them. */
export function usualColumns(question: Question): Column[] {
	const first = question.what[0];
	const measure = first && "measure" in first ? first.measure : first;
	if (!measure) return [];
	const start = question.against && "prior" in question.against;
	return [
		{ field: "school" },
		{ field: "class" },
		{ measure },
		...(start
			? [{ measure: { derive: "span" as const, of: measure, against: question.against } }]
			: []),
	];
}

/** A column that can be had. */
export interface Offer {
	key: string;
	words: string;
	group: string;
	column: Column;
}

const PRIOR = { prior: {} } as const;

/** Everything that a list can show of a student. */
export function offersOf(catalogue: Catalogue): Offer[] {
	const offer = (group: string, words: string, column: Column): Offer => ({
		key: columnKey(column),
		words,
		group,
		column,
	});
	const who = "Who they are";
	const fields = [
		["school", "school"],
		["year_level", yearLevel()],
		["class", "class"],
		["teacher", "teacher"],
	] as const;
	return [
		...fields.map(([field, words]) => offer(who, words, { field })),
		...catalogue.characteristics.map((one) => offer(who, one.label, { characteristic: one.id })),
		offer(who, "notes", "notes"),
		...together(catalogue).map(({ words, column }) => offer("Several at once", words, column)),
		...catalogue.measures.flatMap((sitting) =>
			ofSitting(sitting).map(({ words, column }) => offer(sitting.label, words, column)),
		),
	];
}

interface Words {
	words: string;
	column: Column;
}

/** Every sitting of a subject, every subject of a sitting. */
function together(catalogue: Catalogue): Words[] {
	const out = new Map<string, Words>();
	const measures = catalogue.measures;
	const many = (find: (one: Sitting) => boolean) => measures.filter(find).length > 1;
	for (const one of measures) {
		const same = (other: Sitting) => other.assessment_id === one.assessment_id;
		if (many((other) => same(other) && other.subject_id === one.subject_id)) {
			const words = `${one.subject ?? one.assessment}, every sitting of ${one.assessment}`;
			const measure = { ...measureOf(one), sitting: "each" };
			out.set(words, { words, column: { measure } });
		}
		if (one.subject_id && many((other) => same(other) && other.sitting === one.sitting)) {
			const words = `every subject of ${one.assessment}, ${one.sitting}`;
			const measure = { ...measureOf(one), subject: "each", sitting: one.sitting };
			out.set(words, { words, column: { measure } });
		}
	}
	return [...out.values()];
}

/** What a sitting tells of a student. */
function ofSitting(sitting: Sitting): Words[] {
	const measure = measureOf(sitting);
	const earlier = { earlier: { measure: { ...measure, sitting: { back: 1 } } } };
	const strands = sitting.parts.filter((one) => one.kind === "strand");
	return [
		{ words: `${sitting.label}: result`, column: { measure } },
		...(sitting.has_prior && sitting.has_figures
			? [
					{
						words: `${sitting.label}: span from where they started`,
						column: { measure: { derive: "span" as const, of: measure, against: PRIOR } },
					},
				]
			: []),
		...(sitting.has_earlier && sitting.has_figures
			? [
					{
						words: `${sitting.label}: gain since the sitting before`,
						column: { measure: { derive: "gain" as const, of: measure, against: earlier } },
					},
				]
			: []),
		...(sitting.has_nation
			? [
					{
						words: `${sitting.label}: national percentile rank`,
						column: { measure: { derive: "percentile" as const, of: measure } },
					},
				]
			: []),
		...strands.map(() => ({
			words: `${sitting.label}: standards mastered`,
			column: { measure: { derive: "mastered" as const, of: measure } },
		})),
		...claims(sitting),
		...strands.map(() => ({
			words: `${sitting.label}: every strand`,
			column: { measure: { ...measure, part: { kind: "strand" as const, is: "each" } } },
		})),
	];
}

/** Predictions, targets, and how far the one is from the other. */
function claims(sitting: Sitting): Words[] {
	const grade = sitting.steps.length ? { score: "grade" as const } : {};
	const own = (one: Sitting["claims"][number]) =>
		measureOf(sitting, { role: one.role, ...(one.kind ? { kind: one.kind } : {}), ...grade });
	const targets = sitting.claims.filter((one) => one.role === "target");
	const out: Words[] = sitting.claims.map((one) => ({
		words: `${sitting.label}: ${one.label}`,
		column: { measure: own(one) },
	}));
	for (const target of targets) {
		const against = { target: { kind: target.kind ?? "", about: "same" as const } };
		out.push({
			words: `${sitting.label}: result, of the ${target.label}`,
			column: { measure: measureOf(sitting, grade), against },
		});
		for (const one of sitting.claims.filter((other) => other.role === "predicted"))
			out.push({
				words: `${sitting.label}: ${one.label}, of the ${target.label}`,
				column: { measure: own(one), against },
			});
	}
	return out;
}

/** A column by ids, whoever wrote it by names; what the catalogue does not know stays as it is. */
export function withIds(column: Column, catalogue: Catalogue): Column {
	if (typeof column === "string") return column;
	if ("characteristic" in column) {
		const named = catalogue.characteristics.find((one) => one.label === column.characteristic);
		return named ? { ...column, characteristic: named.id } : column;
	}
	if (!("measure" in column)) return column;
	const { measure } = column;
	if ("derive" in measure) {
		const { of } = measure;
		if ("derive" in of) return column;
		return { ...column, measure: { ...measure, of: idsOf(of, catalogue) } };
	}
	return { ...column, measure: idsOf(measure, catalogue) };
}

function idsOf(measure: Measure, catalogue: Catalogue): Measure {
	const same = catalogue.measures.filter(
		(one) =>
			[one.assessment_id, one.assessment].includes(measure.assessment) &&
			(measure.subject === "each" ||
				[one.subject_id, one.subject].includes(measure.subject ?? null)),
	);
	const first = same[0];
	if (!first) return measure;
	const sat = same.find((one) => [one.sitting_id, one.sitting].includes(String(measure.sitting)));
	return {
		...measure,
		assessment: first.assessment_id,
		subject: measure.subject === "each" ? "each" : first.subject_id,
		...(sat && measure.subject !== "each" ? { sitting: sat.sitting_id } : {}),
	};
}

/** A column in words, also one that is not offered. */
export function wordsOf(column: Column, catalogue: Catalogue, offers: readonly Offer[]): string {
	const key = columnKey(column);
	const found = offers.find((one) => one.key === key);
	if (found) return found.words;
	if (typeof column === "string") return column;
	if ("field" in column) return column.field.replace("_", " ");
	if ("characteristic" in column) {
		const said = column.characteristic;
		const named = catalogue.characteristics.find((one) => one.id === said || one.label === said);
		return named?.label ?? String(said);
	}
	const plain = plainOf(column.measure);
	const sitting = catalogue.measures.find(
		(one) => one.sitting_id === plain.sitting || one.sitting === plain.sitting,
	);
	const derived = "derive" in column.measure ? `: ${column.measure.derive.replace("_", " ")}` : "";
	if (sitting) return `${sitting.label}${derived}`;
	const every = (said: unknown, words: string) => (said === "each" ? words : said);
	const first = catalogue.measures.find((one) => one.subject_id === plain.subject);
	const parts = [
		first?.subject ?? every(plain.subject, "every subject"),
		every(plain.sitting, "every sitting"),
	].filter((one) => typeof one === "string");
	return `${parts.join(", ") || plain.assessment}${derived}`;
}

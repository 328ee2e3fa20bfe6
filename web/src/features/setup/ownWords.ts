import type { Schemas } from "../../api/client";
import { PLAIN } from "../../lib/words";

type Words = Schemas["DistrictWords"];
export type Numbers = NonNullable<Words["numbers"]>;
export type Dates = NonNullable<Words["dates"]>;

/** Each way of writing, by an example. */
export const NUMBERS: Numbers[] = ["1,234.5", "1.234,5", "1 234,5", "1 234.5", "1234.5", "1234,5"];
export const DATES: Dates[] = [
	"2026-03-02",
	"2 March 2026",
	"02/03/2026",
	"03/02/2026",
	"02.03.2026",
];

/** The words as they stand in the form. */
export interface WordsText {
	yearLevel: string;
	before: string;
	levels: string;
	characteristics: Record<string, string>;
	numbers: Numbers;
	dates: Dates;
}

export function textOf(words: Words): WordsText {
	const levels = Object.entries(words.level_names ?? {});
	return {
		yearLevel: words.year_level ?? PLAIN.year_level,
		before: words.level_before ?? PLAIN.level_before,
		levels: levels.map(([level, name]) => `${level} ${name}`).join(", "),
		characteristics: words.characteristics ?? {},
		numbers: words.numbers ?? "1,234.5",
		dates: words.dates ?? "2026-03-02",
	};
}

export function wordsOf(text: WordsText): Words {
	const characteristics = Object.entries(text.characteristics).filter(([, name]) => name.trim());
	return {
		year_level: text.yearLevel.trim(),
		level_before: text.before,
		level_names: Object.fromEntries(levelsIn(text.levels) ?? []),
		characteristics: Object.fromEntries(characteristics),
		numbers: text.numbers,
		dates: text.dates,
	};
}

/** What is still wrong with it; nothing where it can be said. */
export function wrongIn(text: WordsText): string | undefined {
	if (!text.yearLevel.trim()) return "A year level needs a word.";
	if (!levelsIn(text.levels)) return "Names of their own are written like: 0 Nursery, 1 Reception.";
	return undefined;
}

/** Numbers with their names; nothing where a part is neither. */
function levelsIn(text: string): [string, string][] | undefined {
	const parts = text.split(",").map((part) => part.trim());
	const read = parts.filter(Boolean).map((part) => /^(\d{1,3})\s+(.+)$/.exec(part));
	const found = read.flatMap((one) => (one?.[1] && one[2] ? [[one[1], one[2]] as const] : []));
	return found.length === read.length ? found.map(([n, name]) => [n, name]) : undefined;
}

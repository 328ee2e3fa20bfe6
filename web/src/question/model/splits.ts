import type { Catalogue, Dimension, Question } from "../../api/client";
import { yearLevel } from "../../lib/words";

/** What can stand after “split by”, in the order of the strip and of the [ ] keys. */
export interface SplitChoice {
	key: string;
	label: string;
	dimension: Dimension;
}

export function splitsOf(catalogue: Catalogue): SplitChoice[] {
	const taught = catalogue.courses.length > 0;
	const ofSubject: SplitChoice[] = [
		{
			key: "class:subject",
			label: "class of the subject",
			dimension: { field: "class", of: "subject" },
		},
	];
	const course: SplitChoice[] = [
		{ key: "course", label: "course", dimension: { field: "course" } },
	];
	const fields: SplitChoice[] = [
		{ key: "school", label: "school", dimension: { field: "school" } },
		{ key: "class", label: "class", dimension: { field: "class" } },
		...(taught ? ofSubject : []),
		{ key: "teacher", label: "teacher", dimension: { field: "teacher" } },
		...(taught ? course : []),
		{ key: "year_level", label: yearLevel(), dimension: { field: "year_level" } },
	];
	const groups = catalogue.characteristics.filter((item) => item.holds !== "text");
	const characteristics = groups.map((item) => ({
		key: `characteristic:${item.id}`,
		label: item.label,
		dimension: { characteristic: item.id },
	}));
	const band: SplitChoice = { key: "band", label: "starting band", dimension: { band: "prior" } };
	return [...fields, ...characteristics, band];
}

/** The scores at which bands are cut, as somebody types them; nothing where they do not rise. */
export function cutsIn(text: string): number[] | undefined {
	const cuts = text
		.split(/[;,\s]+/)
		.filter(Boolean)
		.map(Number);
	const rising = cuts.every((cut, at) => Number.isFinite(cut) && cut > (cuts[at - 1] ?? -Infinity));
	return cuts.length > 0 && cuts.length < 10 && rising ? cuts : undefined;
}

export function splitKey(dimension: Dimension | undefined): string {
	if (!dimension) return "nothing";
	if (typeof dimension === "string") return dimension;
	if ("field" in dimension) return dimension.field + (dimension.of ? ":subject" : "");
	if ("characteristic" in dimension) return `characteristic:${dimension.characteristic}`;
	if ("band" in dimension) return "band";
	if ("populations" in dimension) return "populations";
	return "level";
}

/** The splits that are no measure, outer first. */
export function groupSplits(question: Question): Dimension[] {
	return (question.split ?? []).filter((one) => typeof one !== "string");
}

/** Whether its groups have an order of their own, which lists keep. */
export function hasOrder(dimension: Dimension): boolean {
	if (typeof dimension === "string") return false;
	if ("field" in dimension) return dimension.field === "year_level";
	return "band" in dimension || "level" in dimension;
}

/** Whether each measure stands outside with its groups inside. */
export function measureOutside(question: Question): boolean {
	return typeof question.split?.[0] === "string";
}

/** The question with other splits; the order of the measure among them stays. */
export function withSplits(question: Question, splits: Dimension[]): Question {
	const outer = splits.length > 0 && measureOutside(question) ? question.split?.slice(0, 1) : [];
	return { ...question, split: [...(outer ?? []), ...splits], sort: [] };
}

/** The next split in the order of the strip, or the one before; round at the ends. */
export function turnedSplit(
	question: Question,
	catalogue: Catalogue,
	by: number,
): Dimension | undefined {
	const all = splitsOf(catalogue);
	const now = all.findIndex((item) => item.key === splitKey(groupSplits(question)[0]));
	return all[(now + by + all.length) % all.length]?.dimension;
}

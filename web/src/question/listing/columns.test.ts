import { expect, test } from "vitest";
import { catalogue, base as question } from "../model/sample";
import {
	columnKey,
	moved,
	offersOf,
	orderedBy,
	toggledColumn,
	usualColumns,
	withIds,
	wordsOf,
} from "./columns";

const CLASS = { field: "class" } as const;
const SEX = { characteristic: 4 } as const;

test("a column is moved within the list, and never out of it", () => {
	expect(moved([CLASS, SEX, "notes"], 2, 0)).toEqual(["notes", CLASS, SEX]);
	expect(moved([CLASS, SEX], 0, 9)).toEqual([SEX, CLASS]);
	expect(moved([CLASS], 5, 0)).toEqual([CLASS]);
});

test("a column stands once: chosen again, it goes", () => {
	expect(toggledColumn([CLASS], SEX)).toEqual([CLASS, SEX]);
	expect(toggledColumn([CLASS, SEX], { characteristic: 4 })).toEqual([CLASS]);
});

test("a head sorts alone, or after what there is", () => {
	const first = { by: "class", dir: "asc" } as const;
	expect(orderedBy([first], { by: "name", dir: "asc" }, false)).toEqual([
		{ by: "name", dir: "asc" },
	]);
	expect(orderedBy([first], { by: "name", dir: "asc" }, true)).toHaveLength(2);
	expect(orderedBy([first], { by: "class", dir: "desc" }, true)).toEqual([
		{ by: "class", dir: "desc" },
	]);
});

test("what is usual begins with where they are and ends with the span from the start", () => {
	const columns = usualColumns(question);
	expect(columns[0]).toEqual({ field: "school" });
	expect(JSON.stringify(columns.at(-1))).toContain("span");
	expect(usualColumns({ ...question, against: null })).toHaveLength(3);
});

test("every column that is offered has a key and words of its own", () => {
	const offers = offersOf(catalogue);
	expect(new Set(offers.map((one) => one.key)).size).toBe(offers.length);
	for (const one of offers) expect(wordsOf(one.column, catalogue, offers)).toBe(one.words);
	expect(offers.some((one) => one.key === columnKey("notes"))).toBe(true);
});

test("a column written by names is the one that is offered", () => {
	const offers = offersOf(catalogue);
	const named = [
		{ characteristic: "Sex" },
		{ measure: { assessment: "Survey", subject: "Reading", sitting: "spring" } },
	];
	for (const one of named) {
		const key = columnKey(withIds(one, catalogue));
		expect(offers.some((offer) => offer.key === key)).toBe(true);
	}
	expect(withIds({ characteristic: "Height" }, catalogue)).toEqual({ characteristic: "Height" });
});

test("defaults that are written out tell no column from another", () => {
	const short = { measure: { assessment: 1, subject: 2, sitting: 5 } };
	const long = {
		measure: { sitting: 5, assessment: 1, subject: 2, role: "result", kind: null, score: "auto" },
		against: null,
	} as const;
	expect(columnKey(long)).toBe(columnKey(short));
	expect(columnKey({ measure: { ...short.measure, score: "raw" } })).not.toBe(columnKey(short));
});

test("a column that is not offered is called by what it holds", () => {
	const every = { measure: { assessment: "Survey", subject: "Reading", sitting: "each" } };
	expect(wordsOf(every, catalogue, [])).toBe("Reading, every sitting");
	expect(wordsOf({ characteristic: "Sex" }, catalogue, [])).toBe("Sex");
});

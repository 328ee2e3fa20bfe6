import { expect, test } from "vitest";
import { textOf, wordsOf, wrongIn } from "./ownWords";

const own = {
	year_level: "stage",
	level_before: "S",
	level_names: { "0": "Nursery", "1": "First class" },
	characteristics: { "4": "Free lunch" },
	numbers: "1.234,5",
	dates: "02.03.2026",
} as const;

test("what stands in the form is what was said", () => {
	expect(wordsOf(textOf(own))).toEqual(own);
	expect(textOf(own).levels).toBe("0 Nursery, 1 First class");
});

test("an empty name is as files say, and a list that is none is told", () => {
	const text = textOf({ ...own, characteristics: {} });
	expect(wordsOf({ ...text, characteristics: { 4: " " } }).characteristics).toEqual({});
	expect(wrongIn({ ...text, levels: "Nursery" })).toContain("0 Nursery");
	expect(wrongIn({ ...text, yearLevel: " " })).toContain("needs a word");
	expect(wrongIn(text)).toBeUndefined();
});

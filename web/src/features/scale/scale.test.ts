import { describe, expect, it } from "vitest";
import { asFile, BLANK, blankStep, type ScaleText, textOf, wrongIn } from "./scale";

const STEP = blankStep();
const TEST: ScaleText = {
	...BLANK,
	test: "Finals",
	levels: ["7"],
	steps: [
		{ ...STEP, name: "B", cuts: { "7": "10" } },
		{ ...STEP, name: "A", passes: true, synonyms: "A plus", cuts: { "7": "20" } },
	],
};

describe("a scale on screen", () => {
	it("is whole, or says what is wrong", () => {
		expect(wrongIn(TEST)).toBeUndefined();
		expect(wrongIn(BLANK)).toContain("which test");
		expect(wrongIn({ ...TEST, steps: TEST.steps.slice(1) })).toContain("two steps");
		expect(
			wrongIn({ ...TEST, steps: [...TEST.steps, { ...STEP, name: "A", passes: true }] }),
		).toContain("twice");
		const upside = TEST.steps.map((step) => ({ ...step, passes: !step.passes }));
		expect(wrongIn({ ...TEST, steps: upside })).toContain("pass line");
		const falling = TEST.steps.map((step) => ({ ...step, cuts: { "7": "10" } }));
		expect(wrongIn({ ...TEST, steps: falling })).toContain("must rise");
	});

	it("becomes a file with a row per step and year level", async () => {
		const text = await asFile({ ...TEST, levels: ["7", "8"] }).text();
		expect(text.trim().split("\r\n")).toHaveLength(5);
		expect(text).toContain('"Finals","","grade","A","","yes","A plus","7","20"');
	});

	it("opens as it was declared", () => {
		const scale = textOf({
			test: "T",
			subject: "",
			score: "level",
			steps: [
				{ name: "Low", points: 1, passes: false, synonyms: ["L"], cuts: { "10": 5, "9": 4 } },
			],
		});
		expect(scale.levels).toEqual(["9", "10"]);
		expect(scale.steps[0]).toMatchObject({ points: "1", synonyms: "L", cuts: { "10": "5" } });
	});
});

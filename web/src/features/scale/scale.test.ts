import { describe, expect, it } from "vitest";
import { asFile, BLANK, blankStep, type ScaleText, textOf, withCut, wrongIn } from "./scale";

const STEP = blankStep();
const YEAR_7 = { level: "7", form: "", schoolYear: "" };
const TEST: ScaleText = {
	...BLANK,
	test: "Finals",
	sets: [YEAR_7],
	steps: [
		withCut({ ...STEP, name: "B" }, 0, { from: "10" }),
		withCut({ ...STEP, name: "A", passes: true, synonyms: "A plus" }, 0, {
			from: "20",
			upper: "24",
			expected: true,
		}),
	],
};

function wrongWith(step: number, part: Parameters<typeof withCut>[2]): string | undefined {
	const steps = TEST.steps.map((one, at) => (at === step ? withCut(one, 0, part) : one));
	return wrongIn({ ...TEST, steps });
}

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
	});

	it("says what is wrong with its cut scores", () => {
		expect(wrongWith(1, { from: "10" })).toBe("The cut scores of Y7 must rise from step to step.");
		expect(wrongWith(0, { from: "x" })).toContain("must rise");
		expect(wrongWith(0, { upper: "20" })).toBe("The upper half of B (Y7) must lie inside it.");
		expect(wrongWith(0, { upper: "15" })).toBeUndefined();
		expect(wrongWith(0, { expected: true })).toBe("One step is expected at Y7.");
		expect(wrongWith(1, { from: "" })).toBe("A (Y7) needs a cut score too.");
	});

	it("becomes a file with a row per step and set of cuts", async () => {
		const dated = { level: "8", form: "B", schoolYear: "2025-26" };
		const text = await asFile({ ...TEST, sets: [YEAR_7, dated] }).text();
		expect(text.trim().split("\r\n")).toHaveLength(5);
		expect(text).toContain('"A","","yes","A plus","7","","","20","24","yes"');
		expect(text).toContain('"B","","no","","8","B","2025-26","","",""');
	});

	it("opens as it was declared", () => {
		const cut = { form: null, school_year: null, upper: null, expected: false };
		const scale = textOf({
			test: "T",
			subject: "",
			score: "level",
			steps: [
				{
					name: "Low",
					points: 1,
					passes: false,
					synonyms: ["L"],
					cuts: [
						{ ...cut, year_level: 10, lowest: 5 },
						{ ...cut, year_level: 9, lowest: 4, upper: 4.5, expected: true },
					],
				},
				{ name: "High", points: null, passes: true, synonyms: [], cuts: [] },
			],
		});
		expect(scale.sets.map((set) => set.level)).toEqual(["9", "10"]);
		expect(scale.steps[0]).toMatchObject({ points: "1", synonyms: "L" });
		expect(scale.steps[0]?.cuts).toEqual([
			{ from: "4", upper: "4.5", expected: true },
			{ from: "5", upper: "", expected: false },
		]);
		expect(scale.steps[1]?.cuts.map((one) => one.from)).toEqual(["", ""]);
	});
});

import { expect, test } from "vitest";
import type { Catalogue, Question } from "../api/client";
import { whyNot } from "../question/model/lens";
import { measureOf } from "../question/model/question";
import { base, catalogue, measure } from "../question/model/sample";
import { LENSES, OTHER_LENSES } from ".";

function why(show: string, question: Question, given: Catalogue = catalogue): string | undefined {
	const lens = LENSES.find((one) => one.show === show);
	if (!lens) throw new Error(`no lens ${show}`);
	return whyNot(lens, question, given);
}

test("lenses say why they cannot serve", () => {
	expect(why("levels", base)).toBeUndefined();
	const bare = { ...catalogue, measures: [{ ...measure, steps: [], has_prior: false }] };
	expect(why("levels", base, bare)).toContain("no levels");
	expect(why("start_to_now", base, bare)).toContain("no earlier sitting");
	const once = { ...catalogue, measures: [{ ...measure, has_earlier: false }] };
	expect(why("over_time", base, once)).toContain("one sitting");
	const part = { kind: "strand", is: "each" } as const;
	expect(why("levels", { ...base, what: [measureOf(measure, { part })] })).toContain("no levels");
	expect(why("sure", { ...base, against: null })).toContain("where they started");
});

test("grades without points have levels and no mean", () => {
	const grades = { ...catalogue, measures: [{ ...measure, has_figures: false }] };
	for (const lens of LENSES) {
		const said = whyNot(lens, base, grades);
		if (lens.show === "levels") expect(said).toBeUndefined();
		else expect(said).toContain("no mean");
	}
});

test("every lens has a show and a name of its own", () => {
	const all = [...LENSES, ...OTHER_LENSES];
	expect(new Set(all.map((one) => one.show)).size).toBe(all.length);
	expect(new Set(all.map((one) => one.name)).size).toBe(all.length);
});

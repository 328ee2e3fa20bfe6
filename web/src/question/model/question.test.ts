import { describe, expect, test } from "vitest";
import type { Condition, Open, Question } from "../../api/client";
import {
	conditions,
	either,
	everywhere,
	firstQuestion,
	inLens,
	measureOf,
	opened,
	plainOf,
	sittingOf,
	turned,
	withConditions,
	without,
} from "./question";
import { base, catalogue, measure } from "./sample";
import { cutsIn, groupSplits, splitKey, splitsOf, turnedSplit, withSplits } from "./splits";
import { fieldsOf, toggled, valuesOf } from "./who";
import { againstEveryone, againstStart, kindOf, priorOf, toggledPrior } from "./yardsticks";

describe("the first question", () => {
	test("is the newest measure by school, against where they started", () => {
		expect(firstQuestion(catalogue)).toEqual(base);
		expect(base.what).toEqual([{ assessment: 1, subject: 2, sitting: 5 }]);
	});
	test("asks by class in a single school, and against nothing without a prior", () => {
		const alone = { ...catalogue, schools: catalogue.schools.slice(0, 1) };
		const fresh = { ...alone, measures: [{ ...measure, has_prior: false }] };
		expect(firstQuestion(fresh)?.split).toEqual([{ field: "class" }]);
		expect(firstQuestion(fresh)?.against).toBeNull();
	});
	test("of grades without points is asked as levels, for they have no mean", () => {
		const grades = { ...catalogue, measures: [{ ...measure, has_figures: false }] };
		expect(firstQuestion(grades)?.show).toBe("levels");
		expect(firstQuestion(grades)?.against).toBeNull();
	});
	test("is none where nothing was measured", () => {
		expect(firstQuestion({ ...catalogue, measures: [] })).toBeUndefined();
	});
});

describe("ticking values", () => {
	test("adds to one condition of the field and takes away again", () => {
		const one = toggled(base, "school", 1);
		const two = toggled(one, "school", 2);
		expect(conditions(two)).toEqual([{ field: "school", in: [1, 2] }]);
		expect(valuesOf(two, "school")).toEqual([1, 2]);
		expect(conditions(toggled(toggled(two, "school", 1), "school", 2))).toEqual([]);
	});
	test("keeps other fields, and unknown is a value", () => {
		const both = toggled(toggled(base, "school", 1), "characteristic:4", null);
		expect(conditions(both)).toEqual([
			{ field: "school", in: [1] },
			{ characteristic: 4, in: [null] },
		]);
		expect(valuesOf(both, "characteristic:4")).toEqual([null]);
	});
	test("never touches a condition that it cannot show", () => {
		const range: Condition = { field: "year_level", from: 5, to: 7 };
		const asked: Question = { ...base, who: { all: [range] } };
		expect(conditions(toggled(asked, "year_level", 8))).toEqual([
			range,
			{ field: "year_level", in: [8] },
		]);
	});
});

test("a chip's path removes that condition alone, or the date", () => {
	const asked = toggled(toggled(base, "school", 1), "year_level", 8);
	expect(conditions(without(asked, "who.all.0"))).toEqual([{ field: "year_level", in: [8] }]);
	const today: Question = { ...asked, who: { ...asked.who, as_of: "today" } };
	expect(without(today, "who.as_of").who?.as_of).toBe("sitting");
	expect(conditions(without(today, "who.as_of"))).toHaveLength(2);
});

test("a mark is opened beside the question as it was asked, with the list's own order", () => {
	const asked = toggled(base, "year_level", 8);
	const mark: Open = { add: [{ field: "school", in: [2] }], what: { at: 0 } };
	const list = opened(asked, mark, { by: "prior", dir: "desc" });
	expect(list).toEqual({
		...asked,
		open: { ...mark, sort: [{ by: "prior", dir: "desc" }], page: { size: 500, after: 0 } },
	});
});

test("fields without values are not offered; every split has its own key", () => {
	expect(fieldsOf(catalogue).map((field) => field.key)).toEqual([
		"year_level",
		"school",
		"characteristic:4",
	]);
	const splits = splitsOf(catalogue);
	expect(splits.map((item) => splitKey(item.dimension))).toEqual(splits.map((item) => item.key));
	expect(splitKey(undefined)).toBe("nothing");
});

describe("where they started", () => {
	test("is asked by a line unless another curve is chosen", () => {
		expect(priorOf(base)).toEqual({});
		expect(againstStart({})).toEqual({ prior: {} });
		const curved = { ...base, against: againstStart({ expect: "spline", model: "multilevel" }) };
		expect(priorOf(curved)).toEqual({ expect: "spline", model: "multilevel" });
		expect(priorOf({ ...base, against: null })).toBeNull();
	});
	test("takes further starts, and without any the usual one again", () => {
		const one = toggledPrior({}, measure);
		expect(one.priors).toEqual([measureOf(measure)]);
		expect(toggledPrior(one, measure).priors).toBe("declared");
	});
});

test("everyone else like them leaves places aside", () => {
	const asked = toggled(toggled(base, "school", 1), "year_level", 8);
	expect(everywhere(asked)).toEqual([{ field: "year_level", in: [8] }]);
	const against = againstEveryone(asked);
	expect(kindOf(against)).toBe("group");
	expect(against).toEqual({ group: { who: { all: [{ field: "year_level", in: [8] }] } } });
	expect(kindOf(null)).toBe("nothing");
});

describe("chips", () => {
	const girls: Condition = { characteristic: 4, in: [7] };
	const asked = withConditions(base, [girls]);
	const eighth: Condition = { field: "year_level", in: [8] };
	const ninth: Condition = { field: "year_level", in: [9] };
	test("take alternatives, as many as are wanted", () => {
		const two = either(asked, 0, eighth);
		expect(conditions(two)).toEqual([{ any: [girls, eighth] }]);
		expect(conditions(either(two, 0, ninth))).toEqual([{ any: [girls, eighth, ninth] }]);
	});
	test("are turned round and back", () => {
		const round = turned(asked, 0);
		expect(conditions(round)).toEqual([{ not: girls }]);
		expect(conditions(turned(round, 0))).toEqual([girls]);
	});
});

describe("splits", () => {
	test("of the measures keep their place when the group changes", () => {
		const outer: Question = { ...base, split: ["measure", { field: "school" }] };
		const next = withSplits(outer, [{ field: "class" }]);
		expect(next.split).toEqual(["measure", { field: "class" }]);
		expect(groupSplits(next)).toEqual([{ field: "class" }]);
		expect(withSplits(outer, []).split).toEqual([]);
	});
});

describe("lenses", () => {
	test("change nothing but the drawing; leaving a make-up leaves its set", () => {
		const focus: Condition[] = [{ characteristic: 4, in: [7] }];
		const asked: Question = { ...base, focus, sort: [{ by: "n", dir: "asc" }] };
		const bright = inLens(asked, "spans", catalogue);
		expect(bright).toEqual({ ...asked, show: "spans", sort: [], over: "sitting" });
		expect(inLens(inLens(asked, "make_up", catalogue), "spans", catalogue).focus).toBeNull();
	});
	test("leave behind what they do not take", () => {
		const focus: Condition[] = [{ characteristic: 4, in: [7] }];
		const asked: Question = { ...base, focus, reference: ["district", "nation"] };
		expect(inLens(asked, "levels", catalogue).focus).toBeNull();
		expect(inLens(asked, "levels", catalogue).reference).toEqual(["district"]);
		expect(inLens(asked, "make_up", catalogue).reference).toBeUndefined();
	});
});

test("the sitting behind a derived measure is found", () => {
	const derived: Question = {
		...base,
		what: [{ derive: "percentile", of: measureOf(measure) }],
	};
	expect(plainOf(derived.what[0]).sitting).toBe(5);
	const { assessment, subject, sitting } = measure;
	const named: Question = { ...base, what: [{ assessment, subject, sitting }] };
	expect(sittingOf(named, catalogue)?.key).toBe(measure.key);
	const other: Question = { ...base, what: [{ assessment: "Another", sitting }] };
	expect(sittingOf(other, catalogue)).toBeUndefined();
	expect(sittingOf(derived, catalogue)?.key).toBe(measure.key);
	const late: Question = {
		...base,
		against: { prior: { priors: [{ first_of: [measureOf(measure)] }], covariates: ["Sex"] } },
	};
	const prior = priorOf(late);
	expect(plainOf(Array.isArray(prior?.priors) ? prior.priors[0] : undefined).sitting).toBe(5);
	expect(againstStart({ ...prior, model: "corrected" })).toEqual({
		prior: { ...prior, model: "corrected" },
	});
	expect(sittingOf({ ...base, what: [] }, catalogue)).toBeUndefined();
});

test("the next split is the next of the strip, round at the ends", () => {
	const all = splitsOf(catalogue);
	expect(turnedSplit(base, catalogue, 1)).toEqual(all[1]?.dimension);
	expect(turnedSplit(base, catalogue, -1)).toEqual(all.at(-1)?.dimension);
});

test("own cuts of starting bands are numbers that rise", () => {
	expect(cutsIn("300, 340")).toEqual([300, 340]);
	expect(cutsIn("300;320 340")).toEqual([300, 320, 340]);
	for (const none of ["", "340, 300", "high", "300, 300"]) expect(cutsIn(none)).toBeUndefined();
});

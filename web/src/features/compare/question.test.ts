import { describe, expect, test } from "vitest";
import type { Catalogue, Condition, Question } from "../../api/client";
import {
	againstStart,
	conditions,
	expectOf,
	fieldsOf,
	firstQuestion,
	splitKey,
	splitsOf,
	studentsOf,
	toggled,
	valuesOf,
	without,
} from "./question";

const measure = {
	key: "5.scaled",
	label: "Reading, spring",
	assessment_id: 1,
	assessment: "Survey",
	subject_id: 2,
	subject: "Reading",
	sitting_id: 5,
	sitting: "spring",
	date: "2026-05-12",
	score: "scaled",
	score_label: "scaled score",
	n: 90,
	has_prior: true,
};
const catalogue: Catalogue = {
	version: 3,
	today: "2026-04-20",
	scope: "the whole district",
	students: 100,
	schools: [
		{ id: 1, label: "Tarn", n: 60 },
		{ id: 2, label: "Netherby", n: 40 },
	],
	year_levels: [{ id: 8, label: "Year 8", n: 100 }],
	classes: [],
	teachers: [],
	characteristics: [{ id: 4, label: "Sex", options: [{ id: 7, label: "F", n: 50 }] }],
	measures: [measure],
};
const base = firstQuestion(catalogue) as Question;

describe("the first question", () => {
	test("is the newest measure by school, against where they started", () => {
		expect(base.split).toEqual([{ field: "school" }]);
		expect(base.against).toEqual({ prior: {} });
		expect(base.what).toEqual([{ assessment: 1, subject: 2, sitting: 5, score: "scaled" }]);
	});
	test("asks by class in a single school, and against nothing without a prior", () => {
		const alone = { ...catalogue, schools: catalogue.schools.slice(0, 1) };
		const fresh = { ...alone, measures: [{ ...measure, has_prior: false }] };
		expect(firstQuestion(fresh)?.split).toEqual([{ field: "class" }]);
		expect(firstQuestion(fresh)?.against).toBeNull();
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
		const range = { field: "year_level", from: 5, to: 7 } as Condition;
		const asked = { ...base, who: { all: [range] } } as Question;
		expect(conditions(toggled(asked, "year_level", 8))).toEqual([
			range,
			{ field: "year_level", in: [8] },
		]);
	});
});

test("a chip's path removes that condition alone, or the date", () => {
	const asked = toggled(toggled(base, "school", 1), "year_level", 8);
	expect(conditions(without(asked, "who.all.0"))).toEqual([{ field: "year_level", in: [8] }]);
	const today = { ...asked, who: { ...asked.who, as_of: "today" } } as Question;
	expect(without(today, "who.as_of").who?.as_of).toBe("sitting");
	expect(conditions(without(today, "who.as_of"))).toHaveLength(2);
});

test("the students of a mark are the question's, narrowed, without its split", () => {
	const asked = toggled(base, "year_level", 8);
	const narrow = [{ field: "school", in: [2] }] as Condition[];
	const students = studentsOf(asked, narrow, { by: "prior", dir: "desc" });
	expect(students.show).toBe("students");
	expect(students.split).toEqual([]);
	expect(conditions(students)).toEqual([{ field: "year_level", in: [8] }, ...narrow]);
	expect(students.sort).toEqual([{ by: "prior", dir: "desc" }]);
	expect(students.against).toEqual(asked.against);
	expect(asked.show).toBeUndefined();
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

test("where they started is asked by a line unless another curve is chosen", () => {
	const base = firstQuestion(catalogue);
	if (!base) throw new Error("a question was expected");
	expect(expectOf(base)).toBe("linear");
	expect(againstStart("linear")).toEqual({ prior: {} });
	const curved = { ...base, against: againstStart("spline") };
	expect(expectOf(curved)).toBe("spline");
	expect(expectOf({ ...base, against: null })).toBeNull();
});

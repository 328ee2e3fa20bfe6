import { expect, test } from "vitest";
import type { Question } from "../../api/client";
import { measure } from "../../question/model/sample";
import { curveLayout, HEIGHT, LEFT } from "./layout";
import { type Body, stepped, withMoves } from "./model";

const body: Body = {
	show: "trial",
	dimension: "school",
	figure: "mean",
	unit: "steps",
	step: "C",
	group: { n: 20, missing: 0 },
	now: -0.2,
	with_try: 0,
	wanted: 0,
	wanted_words: "level with similar starters",
	needed: 4,
	reachable: true,
	moved: 4,
	steps: 4,
	by_hand: false,
	moves: [],
	movers: { n: 4, missing: 0 },
	curve: Array.from({ length: 21 }, (_, n) => -0.2 + n / 20),
	near: [],
	rows: [],
};

test("what is wanted meets the curve at the fewest students", () => {
	const { met, start, x, y } = curveLayout(body, 500);
	if (!met || !start) throw new Error("it is reachable");
	expect(met.students).toBe(4);
	expect(met.x).toBeCloseTo(x(4));
	expect(met.y).toBeCloseTo(y(0));
	expect(start.x).toBe(LEFT);
	expect(start.y).toBeGreaterThan(met.y);
});

test("not reachable is an answer: nothing is met, and the wanted figure is still in view", () => {
	const far = { ...body, reachable: false, wanted: 3, needed: 60 };
	const { met, y } = curveLayout(far, 500);
	expect(met).toBeNull();
	expect(y(3)).toBeGreaterThanOrEqual(0);
	expect(y(3)).toBeLessThan(HEIGHT);
});

test("a step up and a step down leave a student out of the try", () => {
	const once = stepped([], 7, 1);
	expect(once).toEqual([{ student: 7, by: 1 }]);
	expect(stepped(once, 7, -1)).toEqual([]);
	expect(stepped(once, 8, -1)).toEqual([...once, { student: 8, by: -1 }]);
});

test("moves belong to the measure that is looked at, and none is no plan", () => {
	const question: Question = { question: 1, show: "trial", what: [{ assessment: 1 }] };
	const { plan } = withMoves(question, [{ student: 7, by: 1 }], measure);
	expect(plan?.of.sitting).toBe(measure.sitting_id);
	expect(withMoves(question, [], measure).plan).toBeNull();
});

import { describe, expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { shareAt, shares, smallLayout, spreadLayout, viewsOf } from "./layout";

const curve = {
	key: "c",
	label: "C",
	measure: 0,
	n: 4,
	missing: 1,
	counts: [1, 3],
	at: [1, 2, 4],
	share: [1, 0.75, 0.25],
	low: [0.5, 0.3, 0.1],
	high: [1, 0.95, 0.7],
	mean: null,
	sd: null,
	minimum: null,
	p10: null,
	q1: null,
	median: null,
	q3: null,
	p90: null,
	maximum: null,
	undefined: null,
	opens: null,
	pinned: false,
} satisfies Schemas["Curve"];
const spread = {
	show: "spread",
	dimension: "nothing",
	unit: "marks",
	edges: [0, 2.5, 5],
	curves: [curve],
	cuts: [],
	together: [1, 3],
	curves_drawn: true,
} as Schemas["SpreadBody"];

describe("spread", () => {
	test("bars are shares of those counted", () => {
		expect(shares(curve)).toEqual([0.25, 0.75]);
	});
	test("the share at or above a score between two is that of the next one", () => {
		expect(shareAt(curve, 2)).toBe(0.75);
		expect(shareAt(curve, 3)).toBe(0.25);
		expect(shareAt(curve, 9)).toBe(0);
		expect(shareAt({ ...curve, at: [] }, 1)).toBeNull();
	});
	test("zoom moves the axis, not the figures", () => {
		const whole = spreadLayout(spread, "above", 700, null);
		const part = spreadLayout(spread, "above", 700, [1, 3]);
		expect(whole.x(0)).toBe(whole.left);
		expect(part.x(1)).toBe(part.left);
		expect(part.y(0.5)).toBe(whole.y(0.5));
		expect(part.invert(part.x(2))).toBeCloseTo(2, 9);
	});
	test("few are curves, many are boxes or small pictures", () => {
		expect(viewsOf(spread)).toContain("above");
		expect(viewsOf({ ...spread, curves_drawn: false })).toEqual(["box", "small"]);
	});
	test("small pictures share one scale and the picture of all", () => {
		const other = { ...curve, key: "d", counts: [3, 1] };
		const { pictures } = smallLayout({ ...spread, curves: [curve, other] }, 100, 50, null);
		expect(pictures[0]?.behind).toBe(pictures[1]?.behind);
		expect(pictures[0]?.d).not.toBe(pictures[1]?.d);
	});
});

import { describe, expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { levelColour, levelsLayout } from "./levels/layout";
import { timeLayout } from "./over_time/layout";
import { shareAt, shares, spreadLayout } from "./spread/layout";
import { startLayout } from "./start_to_now/layout";

const row = {
	key: "a",
	label: "A",
	measure: 0,
	n: 10,
	missing: 0,
	counts: [2, 3, 5],
	share: [0.2, 0.3, 0.5],
	at_or_above: [1, 0.8, 0.5],
	opens: null,
	pass_count: null,
	pass_share: null,
	pass_low: null,
	pass_high: null,
	overlap: false,
	pinned: false,
	undefined: null,
} satisfies Schemas["LevelsRow"];

describe("levels", () => {
	test("meet at the pass line, whatever the row", () => {
		const other = { ...row, key: "b", share: [0.6, 0.3, 0.1] };
		const layout = levelsLayout([row, other], 2, 800);
		for (const { bars } of layout.rows) {
			const below = bars[1];
			const above = bars[2];
			expect((below?.x ?? 0) + (below?.width ?? 0)).toBeCloseTo(layout.line, 6);
			expect(above?.x).toBeCloseTo(layout.line, 6);
		}
	});
	test("are as wide as their shares", () => {
		const { bars } = levelsLayout([row], 1, 800).rows[0] ?? { bars: [] };
		const [first, second, third] = bars.map((bar) => bar.width);
		expect((third ?? 0) / (first ?? 1)).toBeCloseTo(2.5, 6);
		expect((second ?? 0) / (first ?? 1)).toBeCloseTo(1.5, 6);
		expect(bars.map((bar) => bar.passes)).toEqual([false, true, true]);
	});
	test("without a pass line all lie on one side", () => {
		const layout = levelsLayout([row], null, 800);
		expect(layout.rows[0]?.bars[0]?.x).toBeCloseTo(layout.line, 6);
	});
	test("have a colour each, told apart on both sides of the line", () => {
		const colours = [0, 1, 2, 3, 4].map((step) => levelColour(step, 5, 2));
		expect(new Set(colours).size).toBe(5);
		expect(colours[0]).toContain("behind");
		expect(colours[4]).toContain("ahead");
	});
});

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
});

test("over time: points stand at their dates, each group shifted, zero drawn only where passed", () => {
	const point = (date: string, value: number | null) => ({
		measure: 0,
		opens: null,
		change: null,
		change_low: null,
		change_high: null,
		undefined: null,
		label: date,
		date,
		n: 9,
		missing: 0,
		value,
		low: value === null ? null : value - 1,
		high: value === null ? null : value + 1,
		change_n: 0,
	});
	const body = {
		show: "over_time",
		dimension: "sex",
		unit: "points",
		what: "mean",
		series: [
			{ key: "a", label: "A", points: [point("2025-05-01", 3), point("2026-05-01", 5)] },
			{ key: "b", label: "B", points: [point("2025-05-01", null), point("2026-05-01", 4)] },
		],
	} as Schemas["TimeBody"];
	const layout = timeLayout(body, 800);
	expect(layout.columns.map((one) => one.date)).toEqual(["2025-05-01", "2026-05-01"]);
	expect(layout.series[1]?.points).toHaveLength(1);
	expect(layout.series[0]?.points[1]?.x).not.toBe(layout.series[1]?.points[0]?.x);
	expect(layout.zero).toBeNull();
	const down = { ...body, series: [{ key: "a", label: "A", points: [point("2025-05-01", 0.2)] }] };
	expect(timeLayout(down as Schemas["TimeBody"], 800).zero).not.toBeNull();
});

test("start to now: the darkest cell is the fullest, and empty ones are not drawn", () => {
	const body = {
		show: "start_to_now",
		x_label: "x",
		y_label: "y",
		groups: [],
		n: 5,
		missing: 0,
		opens: null,
		correlation: null,
		dots: null,
		density: {
			x_edges: [0, 1, 2],
			y_edges: [0, 1, 2],
			counts: [
				[4, 0],
				[0, 1],
			],
		},
		lines: [{ label: "Year 8", n: 5, x: [0, 2], y: [0, 2] }],
	} as Schemas["StartBody"];
	const layout = startLayout(body, 700);
	expect(layout.cells.map((cell) => cell.shade)).toEqual([1, 0.5]);
	expect(layout.cells.every((cell) => cell.width > 0 && cell.height > 0)).toBe(true);
	expect(layout.lines[0]?.end).toEqual([layout.x(2), layout.y(2)]);
});

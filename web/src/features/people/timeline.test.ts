import { expect, test } from "vitest";
import { layoutOf, type Result, SIZE, type Timeline } from "./timeline";

const result = (date: string, standing: number | null, more: Partial<Result> = {}): Result => ({
	label: date,
	about: "Maths",
	sitting: date,
	date,
	assessment: "Quiz",
	score_name: "scaled score",
	unit: "points",
	decimals: 0,
	value: standing,
	level: "",
	tone: null,
	why: standing === null ? "absent" : "",
	standing,
	...more,
});
const line = (n: number, unit: Timeline["unit"] = "percentile"): Timeline => ({
	about: "Maths",
	unit,
	results: Array.from({ length: n }, (_, at) => at),
});

test("later stands further right, higher further up, each inside", () => {
	const drawn = layoutOf(
		line(3),
		[result("2024-05-01", 20), result("2025-05-01", 60), result("2026-05-01", 99.9)],
		String,
		440,
	);
	const [a, b, c] = drawn.dots;
	if (!a || !b || !c) throw new Error("three dots");
	expect(a.x).toBeLessThan(b.x);
	expect(b.x).toBeLessThan(c.x);
	expect(a.y).toBeGreaterThan(b.y);
	for (const dot of drawn.dots) {
		expect(dot.y).toBeGreaterThanOrEqual(SIZE.top);
		expect(dot.x).toBeLessThanOrEqual(440 - SIZE.right);
	}
	expect(c.anchor).toBe("end");
});

test("a sitting without a result says why and breaks nothing", () => {
	const drawn = layoutOf(
		line(2, "z"),
		[result("2024-05-01", 0), result("2025-05-01", null)],
		String,
		440,
	);
	expect(drawn.dots).toHaveLength(1);
	expect(drawn.gaps.map((gap) => gap.words)).toEqual(["absent"]);
});

test("an error reaches to both sides, the reach of others stands behind", () => {
	const one = result("2024-05-01", 50, {
		standing_low: 40,
		standing_high: 60,
		similar_low: 20,
		similar_high: 80,
	});
	const drawn = layoutOf(line(1), [one], String, 440);
	const dot = drawn.dots[0];
	expect(dot && dot.low > dot.y && dot.high < dot.y).toBe(true);
	expect(drawn.bands).toHaveLength(1);
});

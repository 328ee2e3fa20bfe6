import { expect, test } from "vitest";
import type { Row } from "../../api/client";
import { spansLayout } from "./layout";

function row(key: string, span: number | null, low: number | null, high: number | null): Row {
	return {
		key,
		label: key,
		measure: 0,
		n: 30,
		missing: 0,
		span,
		value: span,
		low,
		high,
	} as Partial<Row> as Row;
}

test("a span runs from the yardstick to its end, inside its interval", () => {
	const { marks, origin } = spansLayout([row("a", -4, -6, -2), row("b", 3, 1, 5)], true, 800);
	const [a, b] = marks;
	expect(a?.from).toBe(origin);
	expect(a?.low).toBeLessThan(a?.to ?? 0);
	expect(a?.to).toBeLessThan(a?.high ?? 0);
	expect(a?.high).toBeLessThan(origin ?? 0);
	expect(b?.low).toBeGreaterThan(origin ?? 0);
});

test("equal distances are drawn equally long on one scale", () => {
	const { marks } = spansLayout([row("a", -4, -6, -2), row("b", 4, 2, 6)], true, 800);
	const length = marks.map((mark) => Math.abs((mark.to ?? 0) - (mark.from ?? 0)));
	expect(length[0]).toBeCloseTo(length[1] ?? 0, 6);
});

test("a row without a figure is there and draws nothing", () => {
	const { marks, height } = spansLayout(
		[row("few", null, null, null), row("b", 3, 1, 5)],
		true,
		800,
	);
	expect(marks[0]?.to).toBeNull();
	expect(height).toBe(72);
});

test("without a yardstick nothing starts at zero", () => {
	const { origin, ticks } = spansLayout([row("a", 310, 305, 315)], false, 800);
	expect(origin).toBeNull();
	expect(Math.min(...ticks.map((tick) => tick.value))).toBeGreaterThan(300);
});

test("next to nothing does not fill the width", () => {
	const tiny = [row("a", -0.1, -0.1, 0.1), row("b", 0.1, 0, 0.2)];
	const drawn = (sd: number | null) => {
		const { marks, left, right } = spansLayout(
			tiny.map((one) => ({ ...one, sd })),
			true,
			800,
		);
		return ((marks[1]?.to ?? 0) - (marks[0]?.to ?? 0)) / (right - left);
	};
	expect(drawn(null)).toBeGreaterThan(0.4);
	expect(drawn(45)).toBeLessThan(0.05);
});

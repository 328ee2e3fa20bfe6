import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { FEW_LINES, NAMED_LINES, timeLayout } from "./layout";

test("points stand at their dates, and zero is drawn only where it is passed", () => {
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
			{
				key: "a",
				label: "A",
				apart: null,
				points: [point("2025-05-01", 3), point("2026-05-01", 5)],
			},
			{
				key: "b",
				label: "B",
				apart: null,
				points: [point("2025-05-01", null), point("2026-05-01", 4)],
			},
		],
	} as Schemas["TimeBody"];
	const layout = timeLayout(body, 800);
	expect(layout.columns.map((one) => one.date)).toEqual(["2025-05-01", "2026-05-01"]);
	expect(layout.lines[1]?.points).toHaveLength(1);
	expect(layout.lines[0]?.points[1]?.x).toBe(layout.lines[1]?.points[0]?.x);
	expect(layout.zero).toBeNull();
	const down = {
		...body,
		series: [{ key: "a", label: "A", apart: null, points: [point("2025-05-01", 0.2)] }],
	};
	expect(timeLayout(down as Schemas["TimeBody"], 800).zero).not.toBeNull();
});

function wool(lines: number): Schemas["TimeBody"] {
	const at = (date: string, value: number, verdict: "ahead" | "none"): Schemas["TimePoint"] => ({
		measure: 0,
		opens: null,
		change: null,
		change_low: null,
		change_high: null,
		change_n: 0,
		undefined: null,
		moved: false,
		label: date,
		date,
		n: 9,
		missing: 0,
		value,
		low: value - 90,
		high: value + 90,
		verdict,
	});
	return {
		show: "over_time",
		dimension: "school",
		unit: "points",
		what: "mean",
		series: Array.from({ length: lines }, (_, n) => ({
			key: `${n}`,
			label: `School ${n}`,
			apart: n === 3 ? 1 : null,
			points: [at("2025-05-01", n, "none"), at("2026-05-01", n, n === 3 ? "ahead" : "none")],
		})),
	};
}

test("of many lines only those told apart, and the one pointed at, are drawn in full", () => {
	const full = (count: number, chosen?: string) =>
		timeLayout(wool(count), 800, chosen)
			.lines.filter((line) => line.full)
			.map((line) => line.key);
	expect(full(FEW_LINES)).toHaveLength(FEW_LINES);
	expect(full(400)).toEqual(["3"]);
	expect(full(400, "7").sort()).toEqual(["3", "7"]);
	// They lie above the muted ones.
	expect(timeLayout(wool(400), 800).lines.at(-1)?.key).toBe("3");
});

test("names never lie over one another, and muted lines have none where there are many", () => {
	const names = (count: number) =>
		timeLayout(wool(count), 800).lines.flatMap((line) => (line.name ? [line.name.y] : []));
	const few = names(NAMED_LINES).sort((a, b) => a - b);
	expect(few).toHaveLength(22);
	few.slice(1).forEach((y, at) => {
		expect(y - (few[at] ?? 0)).toBeGreaterThanOrEqual(16.9);
	});
	expect(names(400)).toHaveLength(1);
});

test("intervals of muted lines do not stretch the axis", () => {
	const { yTicks } = timeLayout(wool(40), 800, "none");
	expect(Math.max(...yTicks.map((tick) => tick.value))).toBeLessThan(120);
});

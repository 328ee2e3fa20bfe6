import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { linear } from "../../charts/scale";
import { border, startLayout } from "./layout";

const grid = {
	x_edges: [0, 1, 2],
	y_edges: [0, 1, 2],
	counts: [
		[4, 0],
		[0, 1],
	],
};
const body: Schemas["StartBody"] = {
	show: "start_to_now",
	x_label: "x",
	y_label: "y",
	unit: "points",
	groups: [],
	n: 5,
	missing: 0,
	opens: null,
	correlation: null,
	dots: null,
	grid,
	beyond: { ...grid, y_edges: [-1, 0, 1] },
	regions: [],
	lines: [
		{ label: "Year 8", n: 5, x: [0, 2], y: [0, 2] },
		{ label: "Year 9", n: 5, x: [0, 2], y: [0, 2.01] },
	],
};

test("the darkest cell is the fullest, and empty ones are not drawn", () => {
	const layout = startLayout(body, "scores", 700);
	expect(layout.cells.map((cell) => cell.shade)).toEqual([1, 0.5]);
	expect(layout.cells.every((cell) => cell.width > 0 && cell.height > 0)).toBe(true);
});

test("names of lines that end together stand apart", () => {
	const [first, second] = startLayout(body, "scores", 700).lines;
	expect(Math.abs((first?.end[1] ?? 0) - (second?.end[1] ?? 0))).toBeLessThan(5);
	expect((second?.name ?? 0) - (first?.name ?? 0)).toBeGreaterThanOrEqual(13);
});

test("beyond the expected has zero on its axis and no lines", () => {
	const layout = startLayout(body, "beyond", 700);
	expect(layout.lines).toEqual([]);
	expect(layout.y(0)).toBeGreaterThan(layout.top);
	expect(layout.y(0)).toBeLessThan(layout.bottom);
});

test("the border of two cells side by side has no line between them", () => {
	const scale = linear([0, 10], [0, 10]);
	const edges = { x_edges: [0, 1, 2, 3], y_edges: [0, 1] };
	const d = border([0, 1], edges, scale, scale);
	expect(d).not.toContain("M1 0V1");
	expect(d.match(/M/g)).toHaveLength(6);
});

import type { Schemas } from "../../api/client";
import { apart } from "../../charts/overview";
import { ends, linear, type Scale } from "../../charts/scale";

type Body = Schemas["StartBody"];
type Cells = Schemas["Cells"];

/** Outcome against start, or what is beyond the expected against start. */
export type View = "scores" | "beyond";

export interface StartLayout {
	x: Scale;
	y: Scale;
	xTicks: { at: number; value: number }[];
	yTicks: { at: number; value: number }[];
	/** A dot's height; null where nothing is expected of the student. */
	heights: (number | null)[];
	lines: { label: string; d: string; end: [number, number]; name: number }[];
	cells: { x: number; y: number; width: number; height: number; shade: number }[];
	/** The border of the half of each group that lies closest together. */
	outlines: { group: number; d: string }[];
	left: number;
	right: number;
	top: number;
	bottom: number;
}

export const HEIGHT = 430;
const NAME = 13;

/** Where dots, cells, outlines and expectation lines stand. */
export function startLayout(body: Body, view: View, width: number): StartLayout {
	const beyond = view === "beyond" && body.beyond !== null;
	const grid = beyond && body.beyond ? body.beyond : body.grid;
	const values = beyond ? body.dots?.beyond : body.dots?.y;
	const left = 48;
	const right = Math.max(width - 70, left + 200);
	const top = 10;
	const bottom = HEIGHT - 42;
	const x = linear(ends(grid.x_edges), [left, right], 6);
	const y = linear(ends(beyond ? [...grid.y_edges, 0] : grid.y_edges), [bottom, top], 6);
	return {
		x,
		y,
		xTicks: x.marks(7),
		yTicks: y.marks(7),
		heights: (values ?? []).map((value) => (value === null ? null : y(value))),
		lines: beyond ? [] : lines(body, x, y, [top, bottom]),
		// Behind dots the density would only be in the way.
		cells: body.dots ? [] : cells(grid, x, y),
		outlines: body.regions.map((region) => ({
			group: region.group,
			d: border(beyond ? region.beyond : region.cells, grid, x, y),
		})),
		left,
		right,
		top,
		bottom,
	};
}

/** Expectation lines, their names apart from one another at the right. */
function lines(body: Body, x: Scale, y: Scale, [top, bottom]: [number, number]) {
	const drawn = body.lines
		.map((line) => ({
			label: line.label,
			d: line.x.map((v, n) => `${n ? "L" : "M"}${x(v)} ${y(line.y[n] ?? 0)}`).join(""),
			end: [x(line.x.at(-1) ?? 0), y(line.y.at(-1) ?? 0)] as [number, number],
		}))
		.sort((a, b) => a.end[1] - b.end[1]);
	const names = apart(
		drawn.map((line) => line.end[1] - top),
		NAME,
		bottom - top,
	);
	return drawn.map((line, at) => ({ ...line, name: (names[at] ?? 0) + top }));
}

function cells(grid: Cells, x: Scale, y: Scale): StartLayout["cells"] {
	const peak = grid.counts.reduce((most, column) => Math.max(most, ...column), 1);
	return grid.counts.flatMap((column, i) =>
		column.flatMap((count, j) => {
			if (!count) return [];
			const [x0, x1] = [grid.x_edges[i] ?? 0, grid.x_edges[i + 1] ?? 0];
			const [y0, y1] = [grid.y_edges[j] ?? 0, grid.y_edges[j + 1] ?? 0];
			const shade = Math.sqrt(count / peak);
			return [{ x: x(x0), y: y(y1), width: x(x1) - x(x0), height: y(y0) - y(y1), shade }];
		}),
	);
}

/** The sides of cells that have no neighbour among them, as one path. */
export function border(
	inside: number[],
	grid: Pick<Cells, "x_edges" | "y_edges">,
	x: Scale,
	y: Scale,
): string {
	const high = grid.y_edges.length - 1;
	const held = new Set(inside);
	const has = (i: number, j: number) => j >= 0 && j < high && held.has(i * high + j);
	const px = (i: number) => Math.round(10 * x(grid.x_edges[i] ?? 0)) / 10;
	const py = (j: number) => Math.round(10 * y(grid.y_edges[j] ?? 0)) / 10;
	let d = "";
	for (const at of inside) {
		const [i, j] = [Math.floor(at / high), at % high];
		if (!has(i - 1, j)) d += `M${px(i)} ${py(j)}V${py(j + 1)}`;
		if (!has(i + 1, j)) d += `M${px(i + 1)} ${py(j)}V${py(j + 1)}`;
		if (!has(i, j - 1)) d += `M${px(i)} ${py(j)}H${px(i + 1)}`;
		if (!has(i, j + 1)) d += `M${px(i)} ${py(j + 1)}H${px(i + 1)}`;
	}
	return d;
}

import type { Schemas } from "../../api/client";
import { ends, linear } from "../../charts/scale";

type Body = Schemas["StartBody"];

export interface StartLayout {
	x: (value: number) => number;
	y: (value: number) => number;
	xTicks: { at: number; value: number }[];
	yTicks: { at: number; value: number }[];
	lines: { label: string; d: string; end: [number, number] }[];
	cells: { x: number; y: number; width: number; height: number; shade: number }[];
	left: number;
	right: number;
	top: number;
	bottom: number;
}

export const HEIGHT = 430;

/** Where dots, cells and expectation lines stand. */
export function startLayout(body: Body, width: number): StartLayout {
	const xs = body.dots?.x ?? body.density?.x_edges ?? [];
	const ys = body.dots?.y ?? body.density?.y_edges ?? [];
	const left = 48;
	const right = Math.max(width - 70, left + 200);
	const top = 10;
	const bottom = HEIGHT - 42;
	const x = linear(ends(xs), [left, right], 6);
	const y = linear(ends(ys), [bottom, top], 6);
	return {
		x,
		y,
		xTicks: x.marks(7),
		yTicks: y.marks(7),
		lines: body.lines.map((line) => ({
			label: line.label,
			d: line.x.map((v, n) => `${n ? "L" : "M"}${x(v)} ${y(line.y[n] ?? 0)}`).join(""),
			end: [x(line.x[line.x.length - 1] ?? 0), y(line.y[line.y.length - 1] ?? 0)],
		})),
		cells: cells(body, x, y),
		left,
		right,
		top,
		bottom,
	};
}

function cells(
	body: Body,
	x: (value: number) => number,
	y: (value: number) => number,
): StartLayout["cells"] {
	const density = body.density;
	if (!density) return [];
	const peak = Math.max(1, ...density.counts.flat());
	return density.counts.flatMap((column, i) =>
		column.flatMap((count, j) => {
			if (!count) return [];
			const [x0, x1] = [density.x_edges[i] ?? 0, density.x_edges[i + 1] ?? 0];
			const [y0, y1] = [density.y_edges[j] ?? 0, density.y_edges[j + 1] ?? 0];
			const shade = Math.sqrt(count / peak);
			return [{ x: x(x0), y: y(y1), width: x(x1) - x(x0), height: y(y0) - y(y1), shade }];
		}),
	);
}

import type { Schemas } from "../../api/client";
import { INKS } from "../../charts/inks";
import { linear } from "../../charts/scale";

type Body = Schemas["SpreadBody"];
type Curve = Schemas["Curve"];
export type View = "above" | "histogram" | "box" | "small";

/** Curves lie over one another where they are few; boxes and small pictures are for any number. */
export function viewsOf(body: Body): View[] {
	return body.curves_drawn ? ["above", "histogram", "box"] : ["box", "small"];
}

export interface SpreadLayout {
	x: (value: number) => number;
	y: (value: number) => number;
	invert: (at: number) => number;
	xTicks: { at: number; value: number }[];
	yTicks: { at: number; value: number }[];
	/** expected: what the yardstick would give, where it says so. */
	paths: { curve: Curve; at: number; d: string; band: string; expected: string }[];
	left: number;
	right: number;
	top: number;
	bottom: number;
}

export const HEIGHT = 400;
const MARGIN = { left: 46, right: 14, top: 12, bottom: 40 };
export function inkOf(curve: Curve, at: number): string {
	return curve.pinned ? "var(--color-neither)" : (INKS[at % INKS.length] as string);
}

/** Where curves and axes stand; `zoom`: the scores that are looked at. */
export function spreadLayout(
	body: Body,
	view: View,
	width: number,
	zoom: [number, number] | null,
): SpreadLayout {
	const left = MARGIN.left;
	const right = Math.max(width - MARGIN.right, left + 160);
	const [first, last] = [body.edges[0] ?? 0, body.edges[body.edges.length - 1] ?? 1];
	const x = linear(zoom ?? [first, last], [left, right]);
	const top = MARGIN.top;
	const bottom = HEIGHT - MARGIN.bottom;
	const peak = Math.max(0.01, ...body.curves.flatMap((curve) => shares(curve)));
	const y = linear([0, view === "histogram" ? peak * 1.05 : 1], [bottom, top]);
	return {
		x,
		y,
		invert: (at) => x.invert(at),
		xTicks: x.marks(8),
		yTicks: y.marks(5),
		paths: body.curves.map((curve, at) => ({
			curve,
			at,
			d: view === "histogram" ? outline(body.edges, shares(curve), x, y) : stairs(curve, x, y),
			band: view === "above" ? band(curve, x, y) : "",
			expected: view === "above" ? expected(curve, x, y) : "",
		})),
		left,
		right,
		top,
		bottom,
	};
}

/** The share of a curve's students in each bin. */
export function shares(curve: Curve): number[] {
	return curve.counts.map((count) => (curve.n ? count / curve.n : 0));
}

function outline(
	edges: number[],
	heights: number[],
	x: (value: number) => number,
	y: (value: number) => number,
): string {
	if (!heights.length) return "";
	const parts = [`M${x(edges[0] ?? 0)} ${y(0)}`];
	heights.forEach((height, at) => {
		parts.push(`V${y(height)}H${x(edges[at + 1] ?? 0)}`);
	});
	return `${parts.join("")}V${y(0)}`;
}

/** Share at or above: all of them at the lowest score, stepping down just after each score. */
function stairs(curve: Curve, x: (value: number) => number, y: (value: number) => number): string {
	return curve.at
		.map((score, at) => `${at ? "L" : "M"}${x(score)} ${y(curve.share[at] ?? 0)}`)
		.join("");
}

/** The same of what the yardstick would give. */
function expected(
	curve: Curve,
	x: (value: number) => number,
	y: (value: number) => number,
): string {
	const told = curve.expected ?? [];
	if (told.length !== curve.at.length) return "";
	return curve.at.map((score, at) => `${at ? "L" : "M"}${x(score)} ${y(told[at] ?? 0)}`).join("");
}

function band(curve: Curve, x: (value: number) => number, y: (value: number) => number): string {
	if (!curve.at.length) return "";
	const up = curve.at.map((score, at) => `${at ? "L" : "M"}${x(score)} ${y(curve.high[at] ?? 0)}`);
	const down = curve.at.map((score, at) => `L${x(score)} ${y(curve.low[at] ?? 0)}`).reverse();
	return `${up.join("")}${down.join("")}Z`;
}

/** The share of a curve at or above a score: that of the next score that occurs. */
export function shareAt(curve: Curve, score: number): number | null {
	const at = curve.at.findIndex((one) => one >= score);
	return at < 0 ? (curve.at.length ? 0 : null) : (curve.share[at] ?? null);
}

export interface Small {
	/** The outline of its bins, and of all groups together behind it. */
	d: string;
	behind: string;
}

/** A small picture of each curve's bins, all to one scale. */
export function smallLayout(
	body: Body,
	width: number,
	height: number,
	zoom: [number, number] | null,
) {
	const x = linear(zoom ?? [body.edges[0] ?? 0, body.edges.at(-1) ?? 1], [1, width - 1]);
	const total = body.together.reduce((sum, one) => sum + one, 0);
	const all = body.together.map((one) => (total ? one / total : 0));
	// One tiny group with all its students in a bin would flatten all others.
	const peaks = body.curves.map((one) => Math.max(0, ...shares(one))).sort((a, b) => a - b);
	const most = Math.max(...all, peaks[Math.floor(peaks.length * 0.9)] ?? 0, 0.01);
	const y = linear([0, most * 1.1], [height - 1, 2]);
	const behind = outline(body.edges, all, x, y);
	return {
		x,
		pictures: body.curves.map(
			(curve): Small => ({
				d: outline(
					body.edges,
					shares(curve).map((one) => Math.min(one, most * 1.1)),
					x,
					y,
				),
				behind,
			}),
		),
	};
}

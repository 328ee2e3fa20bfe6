import { ends, linear, type Scale } from "../../charts/scale";
import type { Body } from "./model";

export const HEIGHT = 250;
export const LEFT = 44;
const BOTTOM = 34;
const TOP = 12;
const RIGHT = 12;
/** How much further than needed the curve is drawn. */
const BEYOND = 2.2;

export interface CurveLayout {
	x: Scale;
	y: Scale;
	/** The figure after none, one, two … gain a step. */
	path: string;
	/** Where the wanted figure is met; none where it is not. */
	met: { x: number; y: number; students: number } | null;
	start: { x: number; y: number } | null;
	band: { y: number; height: number } | null;
	bottom: number;
	right: number;
}

/** The group's figure against how many gain a step, with what is wanted and where groups finish. */
export function curveLayout(body: Body, width: number): CurveLayout {
	const { curve, wanted, needed, before } = body;
	const most = Math.max(1, curve.length - 1);
	const shown = Math.max(5, Math.min(most, Math.ceil(needed * BEYOND), most));
	const points = curve.slice(0, shown + 1);
	const heights = [...points, ...(wanted == null ? [] : [wanted])];
	if (before) heights.push(before.low, before.high);
	const [right, bottom] = [width - RIGHT, HEIGHT - BOTTOM];
	const x = linear([0, shown], [LEFT, right]);
	const y = linear(ends(heights), [bottom, TOP], 4);
	const path = points
		.map((value, n) => `${n ? "L" : "M"}${x(n).toFixed(1)} ${y(value).toFixed(1)}`)
		.join("");
	const first = curve[0];
	const reached = body.reachable && needed > 0 && wanted != null && needed < curve.length;
	return {
		x,
		y,
		path,
		met: reached ? { x: x(needed), y: y(wanted), students: needed } : null,
		start: first === undefined ? null : { x: x(0), y: y(first) },
		band: before
			? { y: y(before.high), height: Math.max(2, y(before.low) - y(before.high)) }
			: null,
		bottom,
		right,
	};
}

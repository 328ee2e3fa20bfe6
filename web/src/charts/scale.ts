import { scaleLinear } from "d3-scale";

/** Values of an axis to pixels, and back. */
export interface Scale {
	(value: number): number;
	invert: (at: number) => number;
	/** About so many round values, each with its place. */
	marks: (about: number) => { at: number; value: number }[];
}

/** A linear axis over `ends`, in `pixels`; `nice`: widened to about so many round values. */
export function linear(ends: [number, number], pixels: [number, number], nice?: number): Scale {
	const scale = scaleLinear(ends, pixels);
	if (nice) scale.nice(nice);
	return Object.assign((value: number) => scale(value), {
		invert: (at: number) => scale.invert(at),
		marks: (about: number) => scale.ticks(about).map((value) => ({ at: scale(value), value })),
	});
}

/** As many decimals as tell marks apart that lie so far from each other. */
export function decimalsOf(step: number): number {
	return Math.max(0, Math.ceil(-Math.log10(step) - 1e-9));
}

/** The lowest and the highest; [0, 1] where there is none, and never the same twice. */
export function ends(values: Iterable<number>): [number, number] {
	let low = Number.POSITIVE_INFINITY;
	let high = Number.NEGATIVE_INFINITY;
	for (const value of values) {
		if (value < low) low = value;
		if (value > high) high = value;
	}
	return low <= high ? [low, high === low ? low + 1 : high] : [0, 1];
}

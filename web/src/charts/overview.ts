import { ends, linear } from "./scale";

/** A row as the overview shows it. */
export interface Glance {
	key: string;
	label: string;
	value: number | null;
	verdict: string;
}

export interface OverviewLayout {
	/** One path for all rows of a verdict. */
	paths: { verdict: string; d: string }[];
	/** Rows that are told apart, with their names where there is room, in the order of the rows. */
	names: { at: number; glance: Glance; y: number; mark: number; x: number }[];
	/** How many told-apart rows have no room for their name. */
	more: number;
	zero: number | null;
}

export const MARKS_WIDTH = 46;
const LINE = 15;
const DASH = 5;

/** Every row as a dash in its place; the told-apart ones named, those nearest the ends first. */
export function overviewLayout(rows: Glance[], height: number): OverviewLayout {
	const known = rows.flatMap((row) => (row.value === null ? [] : [row.value]));
	const x = linear(ends(known), [2, MARKS_WIDTH - DASH - 2]);
	const y = (at: number) => ((at + 0.5) * height) / Math.max(rows.length, 1);
	const paths = new Map<string, string>();
	rows.forEach((row, at) => {
		if (row.value === null) return;
		const dash = `M${round(x(row.value))} ${round(y(at))}h${DASH}`;
		paths.set(row.verdict, (paths.get(row.verdict) ?? "") + dash);
	});
	const told = rows
		.map((glance, at) => ({ glance, at, mark: y(at), x: x(glance.value ?? 0) }))
		.filter(({ glance }) => glance.verdict === "ahead" || glance.verdict === "behind");
	const room = Math.floor(height / LINE);
	const end = (one: { at: number }) => Math.min(one.at, rows.length - 1 - one.at);
	const named = [...told].sort((a, b) => end(a) - end(b)).slice(0, room);
	named.sort((a, b) => a.at - b.at);
	const places = apart(
		named.map((one) => one.mark),
		LINE,
		height,
	);
	const [low, high] = [Math.min(...known, 0), Math.max(...known, 0)];
	return {
		paths: [...paths].map(([verdict, d]) => ({ verdict, d })),
		names: named.map((one, n) => ({ ...one, y: places[n] ?? one.mark })),
		more: told.length - named.length,
		zero: known.length && low < 0 && high > 0 ? x(0) + DASH / 2 : null,
	};
}

/** Places as near to those wanted as they can be, `gap` apart, between 0 and `height`. */
export function apart(wanted: number[], gap: number, height: number): number[] {
	const out: number[] = [];
	for (const one of wanted) {
		const before = out[out.length - 1];
		out.push(Math.max(before === undefined ? gap / 2 : before + gap, one));
	}
	let limit = height - gap / 2;
	for (let at = out.length - 1; at >= 0; at--) {
		out[at] = Math.min(out[at] ?? 0, limit);
		limit = (out[at] ?? 0) - gap;
	}
	return out;
}

function round(value: number): number {
	return Math.round(value * 10) / 10;
}

import type { Schemas } from "../../api/client";
import { linear } from "../../charts/scale";

type Row = Schemas["LevelsRow"];

/** One level of one row: where its bar lies, and what it holds. */
export interface LevelBar {
	step: number;
	x: number;
	width: number;
	share: number;
	count: number | null;
	passes: boolean;
}

export interface LevelsLayout {
	rows: { row: Row; bars: LevelBar[] }[];
	/** Where the pass line stands. */
	line: number;
	/** Where a share that passes ends. */
	at: (share: number) => number;
	ticks: { x: number; label: string }[];
	left: number;
	right: number;
}

export const LEVEL_NAME = 170;
export const LEVEL_VALUE = 112;

/** Shares laid out around the pass line: those below it to the left, from the line outwards. */
export function levelsLayout(rows: Row[], passAt: number | null, width: number): LevelsLayout {
	const split = passAt ?? 0;
	const below = Math.max(0.05, ...rows.map((row) => sum(row.share.slice(0, split))));
	const above = Math.max(0.05, ...rows.map((row) => sum(row.share.slice(split))));
	const left = LEVEL_NAME;
	const right = Math.max(width - LEVEL_VALUE, left + 160);
	const x = linear([-below, above], [left, right]);
	const tick = [-1, -0.75, -0.5, -0.25, 0, 0.25, 0.5, 0.75, 1]
		.filter((value) => value >= -below && value <= above)
		.map((value) => ({ x: x(value), label: `${Math.abs(100 * value)}%` }));
	return {
		rows: rows.map((row) => ({ row, bars: bars(row, split, x) })),
		line: x(0),
		at: x,
		ticks: tick,
		left,
		right,
	};
}

function bars(row: Row, split: number, x: (value: number) => number): LevelBar[] {
	const out: LevelBar[] = [];
	let from = -sum(row.share.slice(0, split));
	row.share.forEach((share, step) => {
		const value = share ?? 0;
		out.push({
			step,
			x: x(from),
			width: Math.max(0, x(from + value) - x(from)),
			share: value,
			count: row.counts[step] ?? null,
			passes: step >= split,
		});
		from += value;
	});
	return out;
}

function sum(values: (number | null)[]): number {
	return values.reduce<number>((total, value) => total + (value ?? 0), 0);
}

/** Colours from rust through grey to teal around the pass line; the further from it, the deeper. */
export function levelColour(step: number, steps: number, passAt: number | null): string {
	const split = passAt ?? 0;
	if (passAt === null) {
		const part = steps > 1 ? step / (steps - 1) : 1;
		return `color-mix(in oklab, var(--color-ahead) ${Math.round(20 + 75 * part)}%, var(--color-paper))`;
	}
	if (step >= split) {
		const part = (step - split + 1) / Math.max(steps - split, 1);
		return `color-mix(in oklab, var(--color-ahead) ${Math.round(25 + 70 * part)}%, var(--color-paper))`;
	}
	const part = (split - step) / split;
	return `color-mix(in oklab, var(--color-behind) ${Math.round(20 + 65 * part)}%, var(--color-paper))`;
}

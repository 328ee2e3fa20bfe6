import type { Schemas } from "../../api/client";
import { INKS } from "../../charts/inks";
import { apart } from "../../charts/overview";
import { ends, linear } from "../../charts/scale";
import { colour } from "../../lib/verdicts";

type Body = Schemas["TimeBody"];
type Point = Schemas["TimePoint"];
type Series = Body["series"][number];

export interface TimeLine {
	key: string;
	label: string;
	at: number;
	d: string;
	/** It is drawn in full; the others are muted. */
	full: boolean;
	/** It moved otherwise than the others, beyond chance. */
	apart: boolean;
	ink: string;
	/** How it moved beside the others at the last sitting where that can be told. */
	verdict: string;
	points: { point: Point; x: number; y: number; low: number; high: number }[];
	/** Where its name stands, if it has one. */
	name: { x: number; y: number; from: number } | null;
}

export interface TimeLayout {
	columns: { x: number; label: string; date: string }[];
	yTicks: { at: number; value: number }[];
	/** Muted ones first, so that the others lie above them. */
	lines: TimeLine[];
	zero: number | null;
	left: number;
	right: number;
	top: number;
	bottom: number;
}

export const HEIGHT = 430;
/** Up to here every line has an ink of its own; of more, those that are told apart. */
export const FEW_LINES = 6;
/** Of those told apart, so many are drawn in full: those that moved furthest from the others. */
export const FULL_LINES = 14;
/** Up to here muted lines have names too. */
export const NAMED_LINES = 24;
export const NAMES_WIDTH = 158;
const NAME = 17;

/** Points at their dates; each line named at its end. `chosen`: the line that is pointed at. */
export function timeLayout(body: Body, width: number, chosen?: string): TimeLayout {
	const every = body.series.flatMap((one) => one.points);
	const dates = [...new Map(every.map((one) => [one.date, one.label])).entries()].sort();
	const days = dates.map(([date]) => Date.parse(date));
	const [left, right, top, bottom] = [52, Math.max(width - NAMES_WIDTH, 260), 12, HEIGHT - 44];
	const x = linear(ends(days), [left + 30, right - 12]);
	const few = body.series.length <= FEW_LINES;
	const full = (one: Series) =>
		few || (one.apart != null && one.apart <= FULL_LINES) || one.key === chosen;
	// Intervals of muted lines are not drawn, and do not stretch the axis.
	const values = body.series.flatMap((one) =>
		one.points.flatMap((p) => (full(one) ? [p.value, p.low, p.high] : [p.value])),
	);
	const known = values.filter((value): value is number => value != null);
	const y = linear(ends(known), [bottom, top], 6);
	const lines = body.series.map((one, at) => {
		const points = one.points
			.filter((point) => point.value != null)
			.map((point) => ({
				point,
				x: x(Date.parse(point.date)),
				y: y(point.value ?? 0),
				low: y(point.low ?? point.value ?? 0),
				high: y(point.high ?? point.value ?? 0),
			}));
		const d = points.map((p, n) => `${n ? "L" : "M"}${p.x} ${p.y}`).join("");
		const verdict = lastVerdict(one);
		const ink = few ? (INKS[at % INKS.length] ?? "") : inkFor(verdict, full(one));
		const { key, label } = one;
		const apart = one.apart != null;
		return { key, label, at, d, points, full: full(one), apart, ink, verdict, name: null };
	});
	return {
		columns: dates.map(([date, label]) => ({ x: x(Date.parse(date)), label, date })),
		yTicks: y.marks(7),
		lines: named(lines, right, [top, bottom]),
		zero: known.length && Math.min(...known) < 0 && Math.max(...known) > 0 ? y(0) : null,
		left,
		right,
		top,
		bottom,
	};
}

function inkFor(verdict: string, full: boolean): string {
	if (verdict === "ahead" || verdict === "behind") return colour(verdict);
	return full ? "var(--color-ink)" : "var(--color-neither)";
}

function lastVerdict(series: Series): string {
	const told = series.points.filter((one) => one.verdict === "ahead" || one.verdict === "behind");
	return told.at(-1)?.verdict ?? "none";
}

/** Muted lines first; names at the lines' ends, apart from one another, as many as there is room. */
function named(lines: TimeLine[], right: number, [top, bottom]: [number, number]): TimeLine[] {
	const above = (line: TimeLine) => Number(line.apart) + 2 * Number(line.full);
	const order = [...lines].sort((a, b) => above(a) - above(b));
	const end = (line: TimeLine) => line.points.at(-1)?.y ?? 0;
	const all = lines.length <= NAMED_LINES;
	const wanted = order.filter((line) => line.points.length > 0 && (all || line.full));
	const room = Math.floor((bottom - top) / NAME);
	const kept = wanted.slice(-room).sort((a, b) => end(a) - end(b));
	const places = apart(
		kept.map((line) => end(line) - top),
		NAME,
		bottom - top,
	);
	const at = new Map(kept.map((line, n) => [line.key, (places[n] ?? 0) + top]));
	return order.map((line) => {
		const y = at.get(line.key);
		const from = line.points.at(-1)?.x ?? right;
		return y === undefined ? line : { ...line, name: { x: right + 14, y, from } };
	});
}

import type { Row } from "../../api/client";
import { linear } from "../../charts/scale";

/** Where everything of the house chart stands, from the rows alone; nothing is computed here. */
export interface SpanMark {
	row: Row;
	y: number;
	from: number | null;
	to: number | null;
	low: number | null;
	high: number | null;
	/** The same figure for those in focus. */
	focus: number | null;
	/** The outer group, above its first row, where there are two dimensions. */
	head: string | null;
	/** Whether the row stands inside such a group. */
	inner: boolean;
}

export interface SpansLayout {
	marks: SpanMark[];
	ticks: { at: number; value: number }[];
	origin: number | null;
	left: number;
	right: number;
	height: number;
}

export const ROW = 36;
export const HEAD = 24;
export const NAME_WIDTH = 190;
export const VALUE_WIDTH = 84;

/** The narrowest axis, in standard deviations. */
const FINEST = 0.2;

interface Drawn {
	value: number;
	low: number;
	high: number;
}

/** What is drawn of a row: its span against a yardstick, else its mean. */
export function drawn(row: Row, against: boolean): Drawn | null {
	const value = against ? row.span : row.value;
	if (value == null) return null;
	return { value, low: row.low ?? value, high: row.high ?? value };
}

/** Ends of an axis on which a tenth of a standard deviation looks small: what is next to nothing
 * does not fill the width. */
function notTooFine(ends: number[], rows: Row[]): [number, number] {
	const low = ends.length ? Math.min(...ends) : -1;
	const high = ends.length ? Math.max(...ends) : 1;
	const sd = Math.max(0, ...rows.map((row) => row.sd ?? 0));
	const lacks = Math.max(0, FINEST * sd - (high - low)) / 2;
	return [low - lacks, high + lacks];
}

/** Rows one below the other; a heading above the first row of each outer group. */
export function spansLayout(rows: Row[], against: boolean, width: number): SpansLayout {
	const left = NAME_WIDTH;
	const right = Math.max(width - VALUE_WIDTH, left + 120);
	const held = rows.map((row) => drawn(row, against)).filter((item) => item !== null);
	const ends = held.flatMap((item) => [item.low, item.high]);
	ends.push(...rows.flatMap((row) => (row.focus_value == null ? [] : [row.focus_value])));
	if (against) ends.push(0);
	const [low, high] = notTooFine(ends, rows);
	const pad = (high - low || 1) * 0.04;
	const x = linear([low - pad, high + pad], [left, right], 6);
	let y = 0;
	let outer = "";
	return {
		marks: rows.map((row) => {
			const item = drawn(row, against);
			const inner = (row.path?.length ?? 0) > 1;
			const group = inner ? (row.path?.[0]?.label ?? "") : "";
			const head = group && group !== outer ? group : null;
			outer = group || outer;
			y += ROW + (head ? HEAD : 0);
			return {
				row,
				y: y - ROW / 2,
				focus: row.focus_value == null ? null : x(row.focus_value),
				head,
				inner,
				from: against && item ? x(0) : null,
				to: item ? x(item.value) : null,
				low: item ? x(item.low) : null,
				high: item ? x(item.high) : null,
			};
		}),
		ticks: x.marks(6),
		origin: against ? x(0) : null,
		left,
		right,
		height: y,
	};
}

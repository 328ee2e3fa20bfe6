import type { Schemas } from "../../api/client";
import { linear } from "../../charts/scale";

export type Item = Schemas["Item"];
type Body = Schemas["ItemsBody"];

export const ROW = 38;
export const NAME_WIDTH = 208;
const VALUE_WIDTH = 74;
/** So many groups have a mark of their own in the drawing. */
export const DRAWN = 6;

/** A group's mark: which shape it has, and where it stands. */
export interface GroupMark {
	group: number;
	shape: number;
	at: number;
}

/** Where everything of a row stands. */
export interface RowLayout {
	item: Item;
	y: number;
	marks: GroupMark[];
	/** The classes that are paired with one's own. */
	paired: { shape: number; at: number }[];
	/** Where the rest of the group in front stands, and the nation's students. */
	rest: number | null;
	nation: number | null;
	/** The distance from the rest: its interval and itself. */
	low: number | null;
	high: number | null;
	apart: number | null;
}

export interface ItemsLayout {
	rows: RowLayout[];
	/** The groups that are drawn, the one in front first. */
	drawn: number[];
	ticks: { at: number; value: number }[];
	/** Where no distance stands; none where nobody is held against. */
	origin: number | null;
	right: number;
	height: number;
}

/** The group in front: the one that was chosen, else the first. */
export function inFront(body: Body, chosen: string | undefined): number {
	const at = body.groups.findIndex((group) => group.key === chosen);
	return Math.max(at, 0);
}

/** The rows in the order that was asked for, by the group in front: furthest behind first. */
export function ordered(body: Body, front: number): Item[] {
	if (body.order === "paper" || front === 0) return body.rows;
	const by = (item: Item) =>
		body.against ? item.beside?.[front]?.span : item.shares[front]?.share;
	return [...body.rows].sort((a, b) => (by(a) ?? 9) - (by(b) ?? 9) || a.place - b.place);
}

/** Shares on the left, the distance from the rest on the right. */
export function itemsLayout(body: Body, front: number, width: number): ItemsLayout {
	const rows = ordered(body, front);
	const against = body.against !== null && body.against !== undefined;
	const end = Math.max(width - VALUE_WIDTH, NAME_WIDTH + 240);
	const middle = against ? NAME_WIDTH + (end - NAME_WIDTH) * 0.68 : end;
	const x = linear([0, 1], [NAME_WIDTH, middle - 16]);
	const reach = Math.max(
		0.1,
		...rows.flatMap((item) => {
			const one = item.beside?.[front];
			return [Math.abs(one?.low ?? 0), Math.abs(one?.high ?? 0)];
		}),
	);
	const away = linear([-reach, reach], [middle + 16, end]);
	const others = body.groups.map((_, at) => at).filter((at) => at !== front);
	const drawn = [front, ...others].slice(0, DRAWN);
	const place = (share: number | null | undefined) => (share == null ? null : x(share));
	const from = (span: number | null | undefined) => (span == null ? null : away(span));
	return {
		rows: rows.map((item, n) => {
			const one = item.beside?.[front];
			return {
				item,
				y: n * ROW + ROW / 2,
				marks: drawn.flatMap((group, shape) => {
					const at = place(item.shares[group]?.share);
					return at === null ? [] : [{ group, shape, at }];
				}),
				paired: (item.paired ?? []).flatMap((other, n) => {
					const at = place(other.share);
					return at === null ? [] : [{ shape: drawn.length + n, at }];
				}),
				rest: place(one?.rest),
				nation: place(item.shares[front]?.nation),
				low: from(one?.low),
				high: from(one?.high),
				apart: from(one?.span),
			};
		}),
		drawn,
		ticks: [0, 0.25, 0.5, 0.75, 1].map((value) => ({ at: x(value), value })),
		origin: against ? away(0) : null,
		right: end,
		height: rows.length * ROW,
	};
}

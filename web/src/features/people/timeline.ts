import type { Schemas } from "../../api/client";

export type StudentPageData = Schemas["StudentPage"];
export type Result = Schemas["Result"];
export type Timeline = Schemas["Timeline"];

/** Where everything of a timeline stands, in pixels. */
export interface TimelineLayout {
	dots: Dot[];
	/** The way of the line through the results, broken where one is missing. */
	line: string;
	/** The outline of where nine in ten similar starters stand; empty where it is not known. */
	bands: string[];
	ticks: { y: number; words: string }[];
	/** Sittings without a result, and why. */
	gaps: { x: number; words: string; sitting: string }[];
}

export interface Dot {
	x: number;
	y: number;
	low: number;
	high: number;
	sign: string;
	words: string;
	sitting: string;
	/** Which side of the dot its sitting is written from, so that it stays inside. */
	anchor: "start" | "middle" | "end";
	/** All that is known of it, for who cannot see it. */
	told: string;
}

export const SIZE = { height: 158, left: 34, right: 12, top: 10, bottom: 18 };
const TICKS = { percentile: [10, 25, 50, 75, 90], z: [-2, -1, 0, 1, 2], none: [] };
const ENDS = { percentile: [1, 99], z: [-2.6, 2.6], none: [0, 1] } as const;

export function layoutOf(
	line: Timeline,
	results: readonly Result[],
	show: (value: number) => string,
	width: number,
): TimelineLayout {
	const mine = line.results.flatMap((at) => results[at] ?? []);
	const days = mine.map((one) => new Date(one.date).getTime());
	const [first, last] = [Math.min(...days), Math.max(...days)];
	const inner = width - SIZE.left - SIZE.right;
	const x = (at: number) =>
		first === last
			? SIZE.left + inner / 2
			: SIZE.left + 26 + ((inner - 46) * ((days[at] ?? first) - first)) / (last - first);
	const [low, high] = ENDS[line.unit];
	const tall = SIZE.height - SIZE.top - SIZE.bottom;
	const y = (value: number) =>
		SIZE.top + tall * (1 - (Math.max(low, Math.min(high, value)) - low) / (high - low));
	const dots: Dot[] = [];
	const gaps: TimelineLayout["gaps"] = [];
	const bands: string[] = [];
	mine.forEach((one, at) => {
		const value = one.standing;
		if (value == null) {
			gaps.push({ x: x(at), words: one.why, sitting: one.sitting });
			return;
		}
		dots.push({
			x: x(at),
			y: y(value),
			low: y(one.standing_low ?? value),
			high: y(one.standing_high ?? value),
			sign: one.sign ?? "",
			words: show(value),
			sitting: one.sitting,
			anchor: at && at === mine.length - 1 ? "end" : "middle",
			told: `${one.sitting}: ${show(value)}`,
		});
		if (one.similar_low != null && one.similar_high != null)
			bands.push(rectangle(x(at), y(one.similar_high), y(one.similar_low)));
	});
	return {
		dots,
		bands,
		gaps,
		line: dots.map((dot, at) => `${at ? "L" : "M"}${dot.x} ${dot.y}`).join(""),
		ticks: TICKS[line.unit].map((value) => ({ y: y(value), words: tick(value, line.unit) })),
	};
}

function tick(value: number, unit: Timeline["unit"]): string {
	if (unit === "percentile") return String(value);
	return value > 0 ? `+${value}` : value < 0 ? `−${-value}` : "0";
}

const WIDE = 14;

function rectangle(x: number, top: number, bottom: number): string {
	return `M${x - WIDE} ${top}H${x + WIDE}V${bottom}H${x - WIDE}Z`;
}

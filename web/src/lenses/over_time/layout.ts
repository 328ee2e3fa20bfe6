import type { Schemas } from "../../api/client";
import { ends, linear } from "../../charts/scale";

type Body = Schemas["TimeBody"];
type Point = Schemas["TimePoint"];

export interface TimeLayout {
	columns: { x: number; label: string; date: string }[];
	yTicks: { at: number; value: number }[];
	series: {
		key: string;
		label: string;
		at: number;
		d: string;
		points: { point: Point; x: number; y: number; low: number; high: number }[];
	}[];
	zero: number | null;
	left: number;
	right: number;
	top: number;
	bottom: number;
}

export const HEIGHT = 420;

/** Sittings as columns by their date, each group's points slightly apart so that bars are seen. */
export function timeLayout(body: Body, width: number): TimeLayout {
	const every = body.series.flatMap((one) => one.points);
	const dates = [...new Map(every.map((one) => [one.date, one.label])).entries()].sort();
	const days = dates.map(([date]) => Date.parse(date));
	const [left, right, top, bottom] = [52, Math.max(width - 150, 260), 12, HEIGHT - 44];
	const x = linear(
		[Math.min(...days), Math.max(...days, Math.min(...days) + 1)],
		[left + 30, right - 30],
	);
	const values = every.flatMap((one) => [one.low ?? one.value, one.high ?? one.value]);
	const known = values.filter((value): value is number => value != null);
	const y = linear(ends(known), [bottom, top], 6);
	const spread = Math.min(14, 70 / Math.max(body.series.length, 1));
	return {
		columns: dates.map(([date, label]) => ({ x: x(Date.parse(date)), label, date })),
		yTicks: y.marks(7),
		series: body.series.map((one, at) => {
			const shift = (at - (body.series.length - 1) / 2) * spread;
			const points = one.points
				.filter((point) => point.value != null)
				.map((point) => ({
					point,
					x: x(Date.parse(point.date)) + shift,
					y: y(point.value ?? 0),
					low: y(point.low ?? point.value ?? 0),
					high: y(point.high ?? point.value ?? 0),
				}));
			const d = points.map((p, n) => `${n ? "L" : "M"}${p.x} ${p.y}`).join("");
			return { key: one.key, label: one.label, at, d, points };
		}),
		zero: known.length && Math.min(...known) < 0 && Math.max(...known) > 0 ? y(0) : null,
		left,
		right,
		top,
		bottom,
	};
}

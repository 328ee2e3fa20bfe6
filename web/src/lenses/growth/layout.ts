import type { Schemas } from "../../api/client";
import { linear, type Scale } from "../../charts/scale";

type Row = Schemas["GrowthRow"];

export const NAME = 128;
export const COUNT = 62;
export const FIGURE = 76;
export const MET = 128;
export const FELL = 96;
export const ROW = 34;
/** Room between the columns. */
const GAP = 12;

export interface GrowthColumns {
	/** How wide the axis of growth percentiles is. */
	axis: number;
	/** Growth percentiles to pixels inside it. */
	x: Scale;
	met: boolean;
	fell: boolean;
	template: string;
}

/** The columns that the rows have anything for, and how wide each is. */
export function growthColumns(rows: readonly Row[], goals: number, width: number): GrowthColumns {
	const met = goals > 0;
	const fell = rows.some((row) => row.fell);
	const fixed = NAME + COUNT + FIGURE + (met ? MET : 0) + (fell ? FELL : 0);
	const gaps = GAP * (3 + Number(met) + Number(fell));
	const axis = Math.max(140, width - fixed - gaps);
	const parts = [NAME, COUNT, axis, FIGURE, ...(met ? [MET] : []), ...(fell ? [FELL] : [])];
	return {
		axis,
		x: linear([1, 99], [6, axis - 6]),
		met,
		fell,
		template: parts.map((one) => `${one}px`).join(" "),
	};
}

/** Where the two shares of a bar end, ambitious growth inside expected growth. */
export function metWidths(row: Row, width: number): { expected: number; ambitious: number } {
	const share = (goal: string) => row.met?.find((one) => one.goal === goal)?.share ?? 0;
	return { expected: share("expected") * width, ambitious: share("ambitious") * width };
}

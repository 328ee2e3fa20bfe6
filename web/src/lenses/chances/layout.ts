import type { Schemas } from "../../api/client";
import { linear } from "../../charts/scale";

type Row = Schemas["ChancesRow"];

export interface Part {
	outcome: number;
	x: number;
	width: number;
	share: number;
}

export interface Placed {
	row: Row;
	parts: Part[];
}

/** Outcomes laid out around the line that passes, the highest level on top; where the line stands. */
export function chancesLayout(
	rows: readonly Row[],
	passAt: number | null,
	width: number,
): { rows: Placed[]; line: number } {
	const split = passAt ?? 0;
	const sum = (shares: readonly number[]) => shares.reduce((all, one) => all + one, 0);
	const below = Math.max(0.02, ...rows.map((row) => sum((row.share ?? []).slice(0, split))));
	const above = Math.max(0.02, ...rows.map((row) => sum((row.share ?? []).slice(split))));
	const x = linear([-below, above], [0, width]);
	const placed = [...rows].reverse().map((row) => {
		let from = -sum((row.share ?? []).slice(0, split));
		const parts = (row.share ?? []).map((share, outcome) => {
			const part = { outcome, x: x(from), width: x(from + share) - x(from), share };
			from += share;
			return part;
		});
		return { row, parts };
	});
	return { rows: placed, line: x(0) };
}

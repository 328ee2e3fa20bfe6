import type { Schemas } from "../../api/client";

export type Grid = Schemas["Grid"];
type Allowed = Schemas["Allowed"];

const FIGURE = /^[+\-−]?\d{1,12}([.,]\d{1,9})?$/;

function tidy(text: string): string {
	return text.replace(/\s+/g, "").toLowerCase();
}

/** What is wrong with a cell, in words; nothing where it can be kept. The intake checks again. */
export function trouble(text: string, allowed: Allowed): string | undefined {
	const codes = allowed.codes ?? [];
	const cell = text.trim();
	const steps = allowed.steps ?? [];
	if (cell === "") return undefined;
	if (steps.length > 0) {
		const known = [...steps, ...Object.keys(allowed.synonyms ?? {})].some(
			(step) => tidy(step) === tidy(cell),
		);
		if (known || codes.includes(cell.toLowerCase())) return undefined;
		return `“${cell}” is not on the scale: ${steps.join(", ")}`;
	}
	if (codes.includes(cell.toLowerCase())) return undefined;
	if (!FIGURE.test(cell)) return `“${cell}” is neither a figure nor a word like “absent”`;
	const value = Number(cell.replace(",", ".").replace("−", "-"));
	if (allowed.lowest != null && value < allowed.lowest) return `below ${allowed.lowest}`;
	if (allowed.highest != null && value > allowed.highest) return `above ${allowed.highest}`;
	return undefined;
}

/** Cells as a spreadsheet puts them on the clipboard. */
export function pasted(text: string): string[][] {
	const lines = text.replace(/\r\n?/g, "\n").replace(/\n$/, "").split("\n");
	return lines.map((line) => line.split("\t").map((cell) => cell.trim()));
}

/** The cells with a pasted block laid over them from one cell on; what does not fit is left out. */
export function laidOver(
	cells: string[][],
	block: string[][],
	row: number,
	column: number,
): string[][] {
	return cells.map((line, at) => {
		const over = block[at - row];
		if (!over || at < row) return line;
		return line.map((cell, n) => (n < column ? cell : (over[n - column] ?? cell)));
	});
}

/** Rows with something new in them; cells that stay as they are kept say nothing. */
export function changedRows(grid: Grid, cells: string[][]): Schemas["GridRow"][] {
	return grid.rows.flatMap((row, at) => {
		const now = (cells[at] ?? []).map((cell, n) =>
			cell.trim() === row.cells[n] ? "" : cell.trim(),
		);
		return now.some(Boolean) ? [{ ...row, cells: now }] : [];
	});
}

import { type ClipboardEvent, type KeyboardEvent, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { count } from "../../lib/numbers";
import { changedRows, type Grid, laidOver, pasted, trouble } from "./cells";

interface Props {
	grid: Grid;
	busy: boolean;
	look: (rows: Schemas["GridRow"][]) => void;
}

/** The grid itself: keyboard first, every cell checked as it is typed. */
export function GridTable({ grid, busy, look }: Props) {
	const [cells, setCells] = useState(() => grid.rows.map((row) => row.cells));
	const table = useRef<HTMLTableElement>(null);
	const wrong = grid.rows.flatMap((row, at) =>
		grid.allowed.flatMap((allowed, n) => {
			const words = trouble(cells[at]?.[n] ?? "", allowed);
			return words ? [`${row.name || row.number}: ${words}`] : [];
		}),
	);
	const changed = changedRows(grid, cells);
	const set = (row: number, column: number, text: string) =>
		setCells(laidOver(cells, [[text]], row, column));
	function go(row: number, column: number): void {
		const input = table.current?.querySelector<HTMLInputElement>(`[data-at="${row}:${column}"]`);
		input?.focus();
		input?.select();
	}
	function move(event: KeyboardEvent<HTMLInputElement>, row: number, column: number): void {
		const input = event.currentTarget;
		const start = input.selectionStart === 0 && input.selectionEnd === 0;
		const end = input.selectionStart === input.value.length;
		const all = input.selectionStart === 0 && input.selectionEnd === input.value.length;
		const steps: Record<string, [number, number] | false> = {
			ArrowDown: [1, 0],
			ArrowUp: [-1, 0],
			Enter: [event.shiftKey ? -1 : 1, 0],
			ArrowLeft: (start || all) && [0, -1],
			ArrowRight: (end || all) && [0, 1],
		};
		const step = steps[event.key];
		if (event.key === "Escape") set(row, column, grid.rows[row]?.cells[column] ?? "");
		if (!step) return;
		event.preventDefault();
		go(row + step[0], column + step[1]);
	}
	function paste(event: ClipboardEvent, row: number, column: number): void {
		const block = pasted(event.clipboardData.getData("text/plain"));
		if (block.length < 2 && (block[0]?.length ?? 0) < 2) return;
		event.preventDefault();
		setCells(laidOver(cells, block, row, column));
	}
	return (
		<section aria-label={grid.title}>
			<div className="sticky top-0 z-10 flex items-center gap-4 bg-paper pb-2">
				<h2 className="font-bold">{grid.title}</h2>
				<p role="status" className="text-[13px] text-muted">
					{count(grid.rows.length, "student")}, {count(changed.length, "row")} changed
					{wrong.length > 0 && (
						<span className="font-semibold text-behind">
							. {count(wrong.length, "cell")} not understood: {wrong[0]}
						</span>
					)}
				</p>
				<button
					type="button"
					className="btn btn-primary btn-sm ml-auto"
					disabled={busy || wrong.length > 0 || changed.length === 0}
					onClick={() => look(changed)}
				>
					{busy ? "Working…" : "See what would be kept"}
				</button>
			</div>
			<table ref={table} className="text-left">
				<thead>
					<tr className="border-b border-line text-[13px]">
						<th scope="col" className="pr-4 font-semibold text-muted">
							Number
						</th>
						<th scope="col" className="pr-4 font-semibold text-muted">
							Name
						</th>
						{grid.headers.map((header) => (
							<th key={header} scope="col" className="max-w-40 pr-2 font-semibold">
								{header}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{grid.rows.map((row, at) => (
						<tr key={row.number} className="border-b border-line/60">
							<td className="pr-4 text-muted">{row.number}</td>
							<th scope="row" className="pr-4 font-normal">
								{row.name}
							</th>
							{grid.headers.map((header, n) => {
								const text = cells[at]?.[n] ?? "";
								const words = trouble(text, grid.allowed[n] as Schemas["Allowed"]);
								const other = text.trim() !== row.cells[n];
								return (
									<td key={header} className="py-0.5 pr-2">
										<input
											data-at={`${at}:${n}`}
											className={`input input-sm w-32 ${words ? "border-2 border-behind" : other ? "border-amber font-bold" : ""}`}
											aria-label={`${row.name || row.number}, ${header}`}
											aria-invalid={Boolean(words)}
											title={
												words ?? (other && row.cells[n] ? `kept now: ${row.cells[n]}` : undefined)
											}
											value={text}
											onChange={(event) => set(at, n, event.target.value)}
											onKeyDown={(event) => move(event, at, n)}
											onPaste={(event) => paste(event, at, n)}
										/>
									</td>
								);
							})}
						</tr>
					))}
				</tbody>
			</table>
		</section>
	);
}

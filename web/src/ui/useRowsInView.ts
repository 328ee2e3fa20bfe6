import { useVirtualizer } from "@tanstack/react-virtual";
import { type RefObject, useRef } from "react";
import { usePrinting } from "../lib/usePrinting";

export interface InView {
	frame: RefObject<HTMLDivElement | null>;
	/** The places of the rows to draw; all of them on paper and where there are few. */
	rows: number[];
	/** The height of the rows left out before and after, in pixels. */
	before: number;
	after: number;
	/** The first and the last row that are seen. */
	first: number;
	last: number;
	jump: (row: number) => void;
	/** Given to a drawn row whose height is its own; it is told by `data-index`. */
	measure: (row: Element | null) => void;
}

/** From here on rows are drawn as they come into view. */
export const FEW_ROWS = 60;
const OVERSCAN = 12;
/** Of rows with many cells fewer are drawn ahead. */
export const OVERSCAN_WIDE = 3;

/** Which of many rows to draw; `size`: the height of a row in pixels, before it is measured. */
export function useRowsInView(
	count: number,
	size: (row: number) => number,
	overscan = OVERSCAN,
): InView {
	const frame = useRef<HTMLDivElement>(null);
	const printing = usePrinting();
	const many = count > FEW_ROWS;
	const virtual = useVirtualizer({
		count,
		getScrollElement: () => frame.current,
		estimateSize: size,
		overscan,
		enabled: many,
		initialRect: { width: 800, height: 600 },
	});
	const drawn = virtual.getVirtualItems();
	const whole = !many || printing;
	const last = drawn[drawn.length - 1];
	return {
		frame,
		rows: whole ? Array.from({ length: count }, (_, row) => row) : drawn.map((one) => one.index),
		before: whole ? 0 : (drawn[0]?.start ?? 0),
		after: whole || !last ? 0 : virtual.getTotalSize() - last.end,
		first: many ? (virtual.range?.startIndex ?? 0) : 0,
		last: many ? (virtual.range?.endIndex ?? count - 1) : count - 1,
		jump: (row) =>
			many
				? virtual.scrollToIndex(row, { align: "center" })
				: frame.current
						?.querySelector(`[data-index="${row}"]`)
						?.scrollIntoView({ block: "center" }),
		measure: virtual.measureElement,
	};
}

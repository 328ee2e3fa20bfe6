import { useVirtualizer } from "@tanstack/react-virtual";
import type { RefObject } from "react";

/** The columns to draw beside the first, which always stands: from one place to another. */
export interface ColumnsInView {
	from: number;
	to: number;
}

const OVERSCAN = 3;

/** Which of many columns to draw, where each has a width of its own; all of them unless `on`. */
export function useColumnsInView(
	frame: RefObject<HTMLDivElement | null>,
	widths: readonly number[],
	on: boolean,
): ColumnsInView {
	const virtual = useVirtualizer({
		horizontal: true,
		count: widths.length,
		getScrollElement: () => frame.current,
		estimateSize: (at) => widths[at] ?? 0,
		overscan: OVERSCAN,
		enabled: on,
		initialRect: { width: 1000, height: 600 },
	});
	const drawn = virtual.getVirtualItems();
	const [first, last] = [drawn[0], drawn.at(-1)];
	if (!on || !first || !last) return { from: 1, to: widths.length - 1 };
	return { from: Math.max(first.index, 1), to: last.index };
}

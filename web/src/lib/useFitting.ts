import { type RefObject, useLayoutEffect } from "react";

/** What a sheet holds between its margins, in CSS pixels, lying on its side: of the paper that the
 * server prints on, else of the narrowest that a printer is likely to have. */
const HOLDS: Record<string, number> = { A4: 1032, A3: 1497 };
const LEAST = 960;

/** Makes a table small enough for the sheet while it is printed: no column is cut off. */
export function useFitting(table: RefObject<HTMLTableElement | null>, printing: boolean) {
	useLayoutEffect(() => {
		const one = table.current;
		if (!one || !printing) return;
		one.style.width = "min-content";
		const wide = one.offsetWidth;
		one.style.width = "";
		const room = HOLDS[document.documentElement.dataset.paper ?? ""] ?? LEAST;
		if (wide > room) one.style.zoom = String(room / wide);
		return () => {
			one.style.zoom = "";
		};
	}, [table, printing]);
}

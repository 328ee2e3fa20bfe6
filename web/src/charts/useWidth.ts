import { type RefObject, useEffect, useRef, useState } from "react";

type Side = "width" | "height";

function useSide<T extends HTMLElement>(side: Side, first: number): [RefObject<T | null>, number] {
	const frame = useRef<T>(null);
	const [size, setSize] = useState(first);
	useEffect(() => {
		if (!frame.current) return;
		const watch = new ResizeObserver(([entry]) => entry && setSize(entry.contentRect[side]));
		watch.observe(frame.current);
		return () => watch.disconnect();
	}, [side]);
	return [frame, size];
}

/** The width that a chart has, followed as the window changes. */
export function useWidth<T extends HTMLElement>(first = 740): [RefObject<T | null>, number] {
	return useSide<T>("width", first);
}

/** The height that a chart has, likewise. */
export function useHeight<T extends HTMLElement>(first = 400): [RefObject<T | null>, number] {
	return useSide<T>("height", first);
}

import { type RefObject, useEffect, useRef, useState } from "react";

/** The width that a chart has, followed as the window changes. */
export function useWidth<T extends HTMLElement>(first = 740): [RefObject<T | null>, number] {
	const frame = useRef<T>(null);
	const [width, setWidth] = useState(first);
	useEffect(() => {
		if (!frame.current) return;
		const watch = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
		watch.observe(frame.current);
		return () => watch.disconnect();
	}, []);
	return [frame, width];
}

import { useEffect, useRef } from "react";

/** Single-key commands, silent while somebody types or holds a modifier. */
export function useKeys(keys: Record<string, () => void>): void {
	const latest = useRef(keys);
	latest.current = keys;
	useEffect(() => {
		function press(event: KeyboardEvent): void {
			const at = event.target as HTMLElement;
			const typing = at.matches("input, select, textarea, [contenteditable]");
			if (event.ctrlKey || event.metaKey || event.altKey) return;
			if (typing && event.key !== "Escape") return;
			const name = event.key.length > 1 ? event.key.toLowerCase() : event.key;
			const action = latest.current[name];
			if (action) {
				event.preventDefault();
				action();
			}
		}
		window.addEventListener("keydown", press);
		return () => window.removeEventListener("keydown", press);
	}, []);
}

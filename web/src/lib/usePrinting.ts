import { useEffect, useState } from "react";
import { flushSync } from "react-dom";

/** Whether the page is being printed: then everything is drawn, not only what is in view. */
export function usePrinting(): boolean {
	const [printing, setPrinting] = useState(false);
	useEffect(() => {
		const media = window.matchMedia?.("print");
		const now = (on: boolean) => () => flushSync(() => setPrinting(on));
		const [begins, ends] = [now(true), now(false)];
		const changed = () => setPrinting(media?.matches ?? false);
		window.addEventListener("beforeprint", begins);
		window.addEventListener("afterprint", ends);
		media?.addEventListener("change", changed);
		return () => {
			window.removeEventListener("beforeprint", begins);
			window.removeEventListener("afterprint", ends);
			media?.removeEventListener("change", changed);
		};
	}, []);
	return printing;
}

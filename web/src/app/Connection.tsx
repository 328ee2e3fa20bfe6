import { onlineManager } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";

/** Says that there is no connection; what was asked goes on by itself when there is one again. */
export function Connection() {
	const online = useSyncExternalStore(
		(changed) => onlineManager.subscribe(changed),
		() => onlineManager.isOnline(),
	);
	if (online) return null;
	return (
		<p role="status" className="no-print bg-amber-wash px-5 py-1 text-[13px] text-amber-ink">
			There is no connection. What is on the screen stays; what was asked goes on when it is back.
		</p>
	);
}

import { day as written } from "../lib/words";

/** Of which day a pinned row is, where it is not of the version that was asked. */
export function AsOf({ day }: { day?: string | null }) {
	if (!day) return null;
	return (
		<span className="block text-[11px] leading-3 font-normal text-muted">
			released {written(day)}
		</span>
	);
}

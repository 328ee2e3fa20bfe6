import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../api/client";
import { figure } from "../lib/numbers";

const LOOK_AGAIN = 60_000;

/** Tells whoever looks after the instance that its disk is nearly full, before it is. */
export function Room() {
	const room = useQuery({
		queryKey: ["room"],
		queryFn: () => unwrap(client.GET("/api/room")),
		refetchInterval: LOOK_AGAIN,
		retry: false,
	});
	if (!room.data?.low) return null;
	return (
		<p role="status" className="no-print bg-amber-wash px-5 py-1 text-[13px] text-amber-ink">
			The disk has {figure(room.data.free_megabytes, 0)} MB left. Make room soon: below 300 MB
			nothing more is kept, and what is kept already stays.
		</p>
	);
}

import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, unwrap } from "../../api/client";
import { count } from "../../lib/numbers";
import { underWay } from "./WorkLine";

interface Keeping {
	/** How many of how many are done; nothing before it begins. */
	done: { at: number; of: number; kept: number } | undefined;
	busy: boolean;
	begin: (ids: string[]) => void;
	stop: () => void;
}

/** Keeps waiting files one after the other, each as it then reads; what needs a person stays. */
export function useKeepAll(): Keeping {
	const queries = useQueryClient();
	const [done, setDone] = useState<Keeping["done"]>();
	const [busy, setBusy] = useState(false);
	const stopped = useRef(false);
	async function begin(ids: string[]): Promise<void> {
		stopped.current = false;
		setBusy(true);
		let kept = 0;
		for (const [at, id] of ids.entries()) {
			if (stopped.current) break;
			setDone({ at, of: ids.length, kept });
			kept += (await keepOne(id).catch(() => false)) ? 1 : 0;
			setDone({ at: at + 1, of: ids.length, kept });
		}
		setBusy(false);
		await queries.invalidateQueries();
	}
	return { done, busy, begin: (ids) => void begin(ids), stop: () => (stopped.current = true) };
}

async function keepOne(id: string): Promise<boolean> {
	const path = { params: { path: { draft_id: id } } };
	const state = await unwrap(client.GET("/api/drafts/{draft_id}", path));
	const shown = state.examination;
	const open = shown?.findings.some((found) => found.kind === "stop" && !found.chosen);
	if (!shown || open || underWay(state.work)) return false;
	const body = { token: shown.token ?? "" };
	await unwrap(client.POST("/api/drafts/{draft_id}/keep", { ...path, body }));
	return true;
}

export function KeepAll({ ids, keeping }: { ids: string[]; keeping: Keeping }) {
	const { done, busy } = keeping;
	if (ids.length < 2 && !done) return null;
	return (
		<div className="mb-1 flex items-center gap-3 text-[13px]">
			{ids.length > 1 && (
				<button
					type="button"
					className="btn btn-outline btn-xs"
					onClick={() => (busy ? keeping.stop() : keeping.begin(ids))}
				>
					{busy ? "Stop" : "Keep all that are ready"}
				</button>
			)}
			<p role="status" className="text-muted">
				{done && busy && `${done.at} of ${done.of} looked at`}
				{done && !busy && `${count(done.kept, "file")} kept`}
				{done && !busy && done.kept < done.of && `, ${done.of - done.kept} to settle`}
			</p>
		</div>
	);
}

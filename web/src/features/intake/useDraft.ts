import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect } from "react";
import { client, type DraftState, type IntakeSettings, unwrap } from "../../api/client";
import { POLL_MS, underWay } from "./WorkLine";

/** One waiting file: as it stands, changing what is said of it, keeping it; a large one is worked
 * on elsewhere and looked at until that has ended. */
export function useDraft(draftId: string) {
	const queries = useQueryClient();
	const key = ["draft", draftId];
	const path = { params: { path: { draft_id: draftId } } };
	const draft = useQuery({
		queryKey: key,
		queryFn: () => unwrap(client.GET("/api/drafts/{draft_id}", path)),
		// While it is being kept the work is looked at instead: the draft goes with it.
		refetchInterval: (query) => looksAgain(query.state.data) && POLL_MS,
		refetchOnWindowFocus: (query) => query.state.data?.work?.doing !== "keep",
	});
	// Changes are sent one after the other, and each starts from all before it: a second change
	// made while the first is on its way must not undo it.
	const change = useMutation({
		mutationKey: [...key, "change"],
		scope: { id: `draft ${draftId}` },
		mutationFn: (settings: IntakeSettings) =>
			unwrap(client.PUT("/api/drafts/{draft_id}/settings", { ...path, body: settings })),
		onMutate: (settings) => showSettings(settings),
		onSuccess: (state, settings) => {
			const last = queries.isMutating({ mutationKey: [...key, "change"] }) === 1;
			const shown = queries.getQueryData<DraftState>(key);
			queries.setQueryData(key, state);
			if (!last || underWay(state.work)) showSettings(shown?.settings ?? settings);
		},
		onError: () => queries.invalidateQueries({ queryKey: key }),
	});
	function showSettings(settings: IntakeSettings): void {
		queries.setQueryData<DraftState>(key, (state) => state && { ...state, settings });
	}
	const done = useDone(draftId);
	const keep = useMutation({
		mutationFn: (token: string) =>
			unwrap(client.POST("/api/drafts/{draft_id}/keep", { ...path, body: { token } })),
		onSuccess: async (answer) => {
			if ("doing" in answer) await queries.invalidateQueries({ queryKey: key });
			else await done();
		},
		onError: () => queries.invalidateQueries({ queryKey: key }),
	});
	useKeeping(draft.data, done);
	return { draft, change, keep };
}

function looksAgain(state: DraftState | undefined): boolean {
	return underWay(state?.work) && state?.work?.doing !== "keep";
}

function useDone(draftId: string): () => Promise<void> {
	const navigate = useNavigate();
	const queries = useQueryClient();
	return async () => {
		await navigate({ to: "/intake" });
		queries.removeQueries({ queryKey: ["draft", draftId] });
		await queries.invalidateQueries();
	};
}

/** Looks at a keep that is under way; its share goes into the draft that is shown. */
function useKeeping(state: DraftState | undefined, done: () => Promise<void>): void {
	const queries = useQueryClient();
	const work = state?.work;
	const id = work?.doing === "keep" && underWay(work) ? work.id : undefined;
	const keeping = useQuery({
		queryKey: ["work", id],
		enabled: id !== undefined,
		queryFn: () =>
			unwrap(client.GET("/api/work/{work_id}", { params: { path: { work_id: id as number } } })),
		refetchInterval: POLL_MS,
	});
	const now = keeping.data;
	// biome-ignore lint/correctness/useExhaustiveDependencies: each look at the work acts once
	useEffect(() => {
		if (!now || !state || now.id !== id) return;
		if (now.state === "done") void done();
		else
			queries.setQueryData<DraftState>(["draft", state.id], (old) => old && { ...old, work: now });
		if (now.state === "failed" || now.state === "cancelled")
			void queries.invalidateQueries({ queryKey: ["draft", state.id] });
	}, [now, id]);
}

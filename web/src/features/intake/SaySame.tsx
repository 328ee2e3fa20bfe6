import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type DraftState, unwrap } from "../../api/client";
import { count } from "../../lib/numbers";
import { Trouble } from "../../ui/Trouble";

/** Says of the other waiting files with the same columns what is said of this one. */
export function SaySame({ state }: { state: DraftState }) {
	const queries = useQueryClient();
	const waiting = useQuery({
		queryKey: ["drafts"],
		queryFn: () => unwrap(client.GET("/api/drafts")),
	});
	const same = useMutation({
		mutationFn: () =>
			unwrap(
				client.POST("/api/drafts/{draft_id}/same", { params: { path: { draft_id: state.id } } }),
			),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["drafts"] }),
	});
	const others = (waiting.data?.drafts ?? []).filter(
		(draft) => draft.id !== state.id && draft.kind === state.kind,
	);
	if (others.length === 0) return null;
	return (
		<div className="mt-3 border-t border-line pt-3 text-[13px]">
			<button
				type="button"
				className="btn btn-outline btn-xs"
				disabled={same.isPending}
				onClick={() => same.mutate()}
			>
				Say the same of the other files with these columns
			</button>
			<p role="status" className="mt-1 text-muted">
				{same.data &&
					(same.data.said.length > 0
						? `Said of ${same.data.said.join(", ")}.`
						: `None of the ${count(others.length, "other file")} has these columns.`)}
				{same.data &&
					same.data.refused.length > 0 &&
					` It does not fit ${same.data.refused.join(", ")}.`}
			</p>
			{same.isError && <Trouble error={same.error} />}
		</div>
	);
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { KeepAll, useKeepAll } from "./KeepAll";
import { leftWords, POLL_MS, underWay, type Work } from "./WorkLine";

function workWords(work: Work): string {
	if (underWay(work)) return `${work.phase}, ${leftWords(work.left_seconds)}`;
	return work.state === "failed" ? (work.error?.message ?? "It failed.") : "Stopped";
}

/** A file that was being kept and waits no more is in the history, and in every answer. */
function useKeptMeanwhile(drafts: Schemas["DraftItem"][]): void {
	const queries = useQueryClient();
	const keeping = useRef<string[]>([]);
	useEffect(() => {
		const gone = keeping.current.filter((id) => !drafts.some((draft) => draft.id === id));
		keeping.current = drafts
			.filter((draft) => draft.work?.doing === "keep" && underWay(draft.work))
			.map((draft) => draft.id);
		if (gone.length > 0) void queries.invalidateQueries();
	}, [drafts, queries]);
}

/** Files that wait to be kept, and how far a worker is with the large ones. */
export function Waiters() {
	const queries = useQueryClient();
	const waiting = useQuery({
		queryKey: ["drafts"],
		refetchOnMount: "always",
		queryFn: () => unwrap(client.GET("/api/drafts")),
		refetchInterval: (query) =>
			(query.state.data?.drafts ?? []).some((draft) => underWay(draft.work)) && POLL_MS,
	});
	useKeptMeanwhile(waiting.data?.drafts ?? []);
	const drop = useMutation({
		mutationFn: (id: string) =>
			unwrap(
				client.DELETE("/api/drafts/{draft_id}", { params: { path: { draft_id: id } } }) as never,
			),
		onSettled: () => queries.invalidateQueries({ queryKey: ["drafts"] }),
	});
	const keepAll = useKeepAll();
	if (waiting.isPending) return <Waiting what="Looking for waiting files" />;
	if (waiting.isError) return <Trouble error={waiting.error} />;
	if (waiting.data.drafts.length === 0) return null;
	return (
		<>
			<h2 className="mb-1 font-bold">Waiting to be kept</h2>
			<KeepAll ids={waiting.data.drafts.map((draft) => draft.id)} keeping={keepAll} />
			<ul className="mb-4">
				{waiting.data.drafts.map((draft) => (
					<li
						key={draft.id}
						className="flex items-center justify-between border-t border-line py-1.5"
					>
						<Link
							to="/intake/$draftId"
							params={{ draftId: draft.id }}
							className="font-semibold text-ahead hover:underline"
						>
							{draft.name}
							{draft.work && (
								<span className="block text-[13px] font-normal text-muted">
									{workWords(draft.work)}
								</span>
							)}
						</Link>
						<button
							type="button"
							className="text-muted hover:underline"
							aria-label={`Throw away ${draft.name}`}
							onClick={() => drop.mutate(draft.id)}
						>
							Throw away
						</button>
					</li>
				))}
			</ul>
		</>
	);
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { client, type DraftState, type IntakeSettings, unwrap } from "../../api/client";
import { count } from "../../lib/numbers";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Changes } from "./Changes";
import { Columns } from "./Columns";
import { Findings } from "./Findings";
import { KeepPanel } from "./KeepPanel";
import { MatchPicture } from "./MatchPicture";

/** One file on its way in: what it is, how it matches, what would be kept. */
export function DraftPage() {
	const { draftId } = useParams({ from: "/intake/$draftId" });
	const { step } = useSearch({ from: "/intake/$draftId" });
	const navigate = useNavigate();
	const queries = useQueryClient();
	const path = { params: { path: { draft_id: draftId } } };
	const draft = useQuery({
		queryKey: ["draft", draftId],
		queryFn: () => unwrap(client.GET("/api/drafts/{draft_id}", path)),
	});
	// Changes are sent one after the other, and each starts from all before it: a second change
	// made while the first is on its way must not undo it.
	const change = useMutation({
		mutationKey: ["draft", draftId, "change"],
		scope: { id: `draft ${draftId}` },
		mutationFn: (settings: IntakeSettings) =>
			unwrap(client.PUT("/api/drafts/{draft_id}/settings", { ...path, body: settings })),
		onMutate: (settings) => showSettings(settings),
		onSuccess: (state, settings) => {
			const last = queries.isMutating({ mutationKey: ["draft", draftId, "change"] }) === 1;
			const shown = queries.getQueryData<DraftState>(["draft", draftId]);
			queries.setQueryData(["draft", draftId], state);
			if (!last) showSettings(shown?.settings ?? settings);
		},
		onError: () => queries.invalidateQueries({ queryKey: ["draft", draftId] }),
	});
	function showSettings(settings: IntakeSettings): void {
		queries.setQueryData<DraftState>(
			["draft", draftId],
			(state) => state && { ...state, settings },
		);
	}
	const keep = useMutation({
		mutationFn: (token: string) =>
			unwrap(client.POST("/api/drafts/{draft_id}/keep", { ...path, body: { token } })),
		onSuccess: async () => {
			await navigate({ to: "/intake" });
			queries.removeQueries({ queryKey: ["draft", draftId] });
			await queries.invalidateQueries();
		},
		onError: () => queries.invalidateQueries({ queryKey: ["draft", draftId] }),
	});
	if (draft.isError)
		return (
			<div className="p-6">
				<Trouble error={draft.error} />
				<Link to="/intake" className="btn btn-sm mt-3">
					Back to Intake
				</Link>
			</div>
		);
	if (!draft.data) return <Waiting what="Reading the file" />;
	const state = draft.data;
	const columns = step === "columns" || !state.examination;
	const error = change.error ?? keep.error;
	return (
		<div className="flex h-full flex-col">
			<Head state={state} columns={columns} />
			{error && (
				<div className="px-5 pt-3">
					<Trouble error={error} />
				</div>
			)}
			<div className="grid min-h-0 flex-1 grid-cols-[1fr_330px]">
				<section aria-label={columns ? "Columns" : "Match"} className="overflow-auto px-5 py-4">
					{columns || !state.examination ? (
						<Columns
							state={state}
							busy={change.isPending}
							save={(settings) => {
								// Saying the last needed column must not take the page away from who says more.
								if (!step) void navigate({ to: ".", search: { step: "columns" }, replace: true });
								change.mutate(settings);
							}}
						/>
					) : (
						<>
							{state.examination.picture && <MatchPicture picture={state.examination.picture} />}
							<Findings state={state} save={(settings) => change.mutate(settings)} />
							<Changes shown={state.examination} />
						</>
					)}
				</section>
				<KeepPanel
					state={state}
					busy={keep.isPending || change.isPending}
					keep={(token) => keep.mutate(token)}
				/>
			</div>
		</div>
	);
}

function Head({ state, columns }: { state: DraftState; columns: boolean }) {
	const shown = state.examination;
	const rows = shown && (shown.lines_in_file || shown.rows_in_file);
	const wide = shown && rows !== shown.rows_in_file;
	const step = "rounded-full border px-4 py-1";
	const now = "border-ink bg-ink font-semibold text-paper";
	const link = { to: "/intake/$draftId", params: { draftId: state.id } } as const;
	return (
		<div className="flex shrink-0 items-center gap-4 border-b border-line px-5 py-3">
			<h1 className="text-xl font-bold">{state.examination?.title ?? state.name}</h1>
			<p className="text-muted">
				{state.name}
				{shown && `, ${count(rows ?? 0, "row")}`}
				{wide && `, ${count(shown.rows_in_file, "result")}`}, {state.read_as}
			</p>
			<nav aria-label="Steps" className="ml-auto flex gap-2">
				<span className={`${step} border-ahead text-ahead`}>✓ Read</span>
				<Link
					{...link}
					search={{ step: "columns" }}
					className={`${step} ${columns ? now : "border-ahead text-ahead"}`}
					aria-current={columns ? "step" : undefined}
				>
					{columns ? "Columns" : "✓ Columns"}
				</Link>
				{state.examination ? (
					<Link
						{...link}
						search={{}}
						className={`${step} ${columns ? "border-line" : now}`}
						aria-current={columns ? undefined : "step"}
					>
						Match
					</Link>
				) : (
					<span className={`${step} border-line text-muted`}>Match</span>
				)}
			</nav>
		</div>
	);
}

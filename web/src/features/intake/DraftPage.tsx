import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import type { DraftState } from "../../api/client";
import { count } from "../../lib/numbers";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Changes } from "./Changes";
import { Columns } from "./Columns";
import { Findings } from "./Findings";
import { KeepPanel } from "./KeepPanel";
import { LeftOut } from "./LeftOut";
import { MatchPicture } from "./MatchPicture";
import { useDraft } from "./useDraft";
import { underWay, WorkLine } from "./WorkLine";

/** One file on its way in: what it is, how it matches, what would be kept. */
export function DraftPage() {
	const { draftId } = useParams({ from: "/intake/$draftId" });
	const { step } = useSearch({ from: "/intake/$draftId" });
	const navigate = useNavigate();
	const { draft, change, keep } = useDraft(draftId);
	if (draft.isError && !underWay(draft.data?.work))
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
	const unread = !state.examination && !state.problem;
	const working = underWay(state.work);
	return (
		<div className="flex h-full flex-col">
			<Head state={state} columns={columns} unread={unread} />
			{error && (
				<div className="px-5 pt-3">
					<Trouble error={error} />
				</div>
			)}
			{state.work && (
				<div className="px-5 pt-3">
					<WorkLine work={state.work} />
				</div>
			)}
			<div className="grid min-h-0 flex-1 grid-cols-[1fr_330px]">
				<section aria-label={columns ? "Columns" : "Match"} className="overflow-auto px-5 py-4">
					{unread ? (
						<p className="text-muted">
							Its columns and its match are shown here as soon as the file is read.
						</p>
					) : columns || !state.examination ? (
						<Columns
							state={state}
							busy={change.isPending || working}
							save={(settings) => {
								// Saying the last needed column must not take the page away from who says more.
								if (!step) void navigate({ to: ".", search: { step: "columns" }, replace: true });
								change.mutate(settings);
							}}
						/>
					) : (
						<>
							{state.examination.picture && <MatchPicture picture={state.examination.picture} />}
							<LeftOut draft={state.id} leftOut={state.examination.left_out ?? []} />
							<Findings state={state} save={(settings) => change.mutate(settings)} />
							<Changes shown={state.examination} />
						</>
					)}
				</section>
				<KeepPanel
					state={state}
					busy={keep.isPending || change.isPending || working}
					keep={(token) => keep.mutate(token)}
				/>
			</div>
		</div>
	);
}

function Head({
	state,
	columns,
	unread,
}: {
	state: DraftState;
	columns: boolean;
	unread: boolean;
}) {
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
				{[
					state.examination && state.name,
					shown && count(rows ?? 0, "row"),
					wide && count(shown.rows_in_file, "result"),
					state.read_as,
				]
					.filter(Boolean)
					.join(", ")}
			</p>
			<nav aria-label="Steps" className="ml-auto flex shrink-0 gap-2 whitespace-nowrap">
				<span className={`${step} ${state.read_as ? "border-ahead text-ahead" : now}`}>
					{state.read_as ? "✓ Read" : "Read"}
				</span>
				{unread ? (
					<span className={`${step} border-line text-muted`}>Columns</span>
				) : (
					<Link
						{...link}
						search={{ step: "columns" }}
						className={`${step} ${columns ? now : "border-ahead text-ahead"}`}
						aria-current={columns ? "step" : undefined}
					>
						{columns ? "Columns" : "✓ Columns"}
					</Link>
				)}
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

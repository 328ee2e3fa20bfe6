import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { client, type Schemas, unwrap } from "../../api/client";
import { count, figure } from "../../lib/numbers";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";

export type Batch = Schemas["BatchItem"];

interface Props {
	batch: Batch;
	open: "aside" | "undo" | undefined;
	show: (what: "aside" | "undo" | undefined) => void;
}

/** One kept file: what stands, what is set aside, undo with what it would mean. */
export function BatchLine({ batch, open, show }: Props) {
	const kept = batch.event === "kept";
	const change = useStanding(batch, () => show(undefined));
	const when = new Date(batch.event_at).toLocaleString("en-GB", {
		dateStyle: "medium",
		timeStyle: "short",
	});
	return (
		<>
			<tr className={`border-b border-line/70 ${kept ? "" : "text-muted"}`}>
				<th scope="row" className="py-2 font-semibold">
					<span className={kept ? "" : "line-through"}>{batch.title}</span>
					{!kept && <span className="font-normal"> · undone</span>}
				</th>
				<td className="max-w-44 truncate" title={batch.file}>
					{batch.file}
				</td>
				<td>{batch.effective_date ?? ""}</td>
				<td className="text-right">{figure(batch.rows_kept, 0)}</td>
				<td className="pr-6 text-right">
					{batch.rows_set_aside > 0 ? (
						<button
							type="button"
							className="font-semibold text-amber-ink hover:underline"
							aria-expanded={open === "aside"}
							aria-label={`${batch.rows_set_aside} rows of ${batch.title} set aside. Show`}
							onClick={() => show(open === "aside" ? undefined : "aside")}
						>
							{figure(batch.rows_set_aside, 0)}
						</button>
					) : (
						0
					)}
				</td>
				<td>{`${when}, ${batch.by ?? "command line"}`}</td>
				<td className="text-right">
					<button
						type="button"
						className="btn btn-outline btn-xs"
						disabled={change.isPending}
						aria-label={`${kept ? "Undo" : "Put back"} ${batch.title}, ${batch.file}`}
						aria-expanded={kept ? open === "undo" : undefined}
						onClick={() => (kept ? show(open === "undo" ? undefined : "undo") : change.mutate())}
					>
						{kept ? "Undo" : "Put back"}
					</button>
				</td>
			</tr>
			{open && (
				<tr>
					<td colSpan={7} className="bg-amber-wash/60 px-3 py-2">
						{open === "aside" ? (
							<Aside batch={batch} />
						) : (
							<UndoAsked batch={batch} busy={change.isPending} undo={() => change.mutate()} />
						)}
						{change.isError && <Trouble error={change.error} />}
					</td>
				</tr>
			)}
		</>
	);
}

function useStanding(batch: Batch, done: () => void) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: () => {
			const params = { params: { path: { batch_id: batch.id } } };
			return unwrap(
				batch.event === "kept"
					? client.POST("/api/batches/{batch_id}/undo", params)
					: client.POST("/api/batches/{batch_id}/put-back", params),
			);
		},
		onSuccess: done,
		onSettled: () => queries.invalidateQueries(),
	});
}

/** What an undo would mean, before it is done. */
function UndoAsked({ batch, busy, undo }: { batch: Batch; busy: boolean; undo: () => void }) {
	const told = useQuery({
		queryKey: ["batches", batch.id, "consequences"],
		queryFn: () =>
			unwrap(
				client.GET("/api/batches/{batch_id}/consequences", {
					params: { path: { batch_id: batch.id } },
				}),
			),
	});
	if (told.isError) return <Trouble error={told.error} />;
	if (!told.data) return <Waiting what="Looking what rests on it" />;
	return (
		<div className="flex items-start justify-between gap-6 whitespace-normal">
			<div>
				<p className="font-semibold">If you undo it</p>
				<ul className="text-[13px]">
					{told.data.sentences.map((sentence) => (
						<li key={sentence}>{sentence}</li>
					))}
					<li>Nothing is deleted: it can be put back as it was.</li>
				</ul>
			</div>
			<button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={undo}>
				{busy ? "Working…" : `Undo ${batch.title}`}
			</button>
		</div>
	);
}

function Aside({ batch }: { batch: Batch }) {
	const navigate = useNavigate();
	const params = { params: { path: { batch_id: batch.id } } };
	const rows = useQuery({
		queryKey: ["aside", batch.id],
		queryFn: () => unwrap(client.GET("/api/batches/{batch_id}/aside", params)),
	});
	const settle = useMutation({
		mutationFn: () => unwrap(client.POST("/api/batches/{batch_id}/settle", params)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.draft_id } }),
	});
	if (rows.isError) return <Trouble error={rows.error} />;
	if (!rows.data) return <Waiting what="Looking them up" />;
	return (
		<>
			<ul className="max-h-60 overflow-auto text-[13px] whitespace-normal">
				{rows.data.rows.map((row, at) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: one line may be set aside for two results
					<li key={at} className="py-0.5">
						<b>Line {row.row}</b>, {row.reason}: {row.cells.map(([, cell]) => cell).join(" · ")}
					</li>
				))}
			</ul>
			{batch.event === "kept" && (
				<button
					type="button"
					className="btn btn-outline btn-xs mt-2"
					disabled={settle.isPending}
					onClick={() => settle.mutate()}
				>
					Settle {count(rows.data.rows.length, "row")} now
				</button>
			)}
			{settle.isError && <Trouble error={settle.error} />}
		</>
	);
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { figure } from "../../lib/numbers";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";

type Batch = Schemas["BatchItem"];

/** Everything kept and undone, newest first; undo and put back in any order. */
export function History() {
	const queries = useQueryClient();
	const history = useQuery({
		queryKey: ["batches"],
		queryFn: () => unwrap(client.GET("/api/batches")),
	});
	const [aside, setAside] = useState<number>();
	const change = useMutation({
		mutationFn: (batch: Batch) => {
			const params = { params: { path: { batch_id: batch.id } } };
			return unwrap(
				batch.event === "kept"
					? client.POST("/api/batches/{batch_id}/undo", params)
					: client.POST("/api/batches/{batch_id}/put-back", params),
			);
		},
		onSettled: () => queries.invalidateQueries(),
	});
	return (
		<section aria-label="History" className="overflow-auto px-5 py-4">
			<h2 className="mb-2 text-base font-bold">What was kept</h2>
			{change.isError && <Trouble error={change.error} />}
			{history.isPending && <Waiting what="Looking up the history" />}
			{history.isError && <Trouble error={history.error} />}
			{history.data?.batches.length === 0 && (
				<p className="text-muted">Nothing yet. A roster comes first, then results.</p>
			)}
			{history.data && history.data.batches.length > 0 && (
				<table className="w-full text-left [&_td]:px-2 [&_th]:px-2 [&_td]:whitespace-nowrap">
					<thead>
						<tr className="border-b border-line text-[13px] text-muted">
							<th scope="col" className="py-1.5 font-semibold">
								What
							</th>
							<th scope="col" className="font-semibold">
								File
							</th>
							<th scope="col" className="font-semibold">
								Holds from
							</th>
							<th scope="col" className="text-right font-semibold">
								Rows kept
							</th>
							<th scope="col" className="pr-6 text-right font-semibold">
								Set aside
							</th>
							<th scope="col" className="font-semibold">
								When, by
							</th>
							<th scope="col">
								<span className="sr-only">Change</span>
							</th>
						</tr>
					</thead>
					<tbody>
						{history.data.batches.map((batch) => (
							<Line
								key={batch.id}
								batch={batch}
								busy={change.isPending}
								change={() => change.mutate(batch)}
								showing={aside === batch.id}
								show={() => setAside(aside === batch.id ? undefined : batch.id)}
							/>
						))}
					</tbody>
				</table>
			)}
		</section>
	);
}

interface LineProps {
	batch: Batch;
	busy: boolean;
	change: () => void;
	showing: boolean;
	show: () => void;
}

function Line({ batch, busy, change, showing, show }: LineProps) {
	const kept = batch.event === "kept";
	return (
		<>
			<tr className={`border-b border-line/70 ${kept ? "" : "text-muted"}`}>
				<th scope="row" className="py-2 font-semibold">
					<span className={kept ? "" : "line-through"}>{batch.title}</span>
					{!kept && <span className="font-normal"> · undone</span>}
				</th>
				<td>{batch.file}</td>
				<td>{batch.effective_date ?? ""}</td>
				<td className="text-right">{figure(batch.rows_kept, 0)}</td>
				<td className="pr-6 text-right">
					{batch.rows_set_aside > 0 ? (
						<button
							type="button"
							className="font-semibold text-amber-ink hover:underline"
							aria-expanded={showing}
							aria-label={`${batch.rows_set_aside} rows of ${batch.title} set aside. Show`}
							onClick={show}
						>
							{batch.rows_set_aside}
						</button>
					) : (
						0
					)}
				</td>
				<td>
					{new Date(batch.event_at).toLocaleString("en-GB", {
						dateStyle: "medium",
						timeStyle: "short",
					})}
					{`, ${batch.by ?? "command line"}`}
				</td>
				<td className="text-right">
					<button
						type="button"
						className="btn btn-outline btn-xs"
						disabled={busy}
						aria-label={`${kept ? "Undo" : "Put back"} ${batch.title}, ${batch.file}`}
						onClick={change}
					>
						{kept ? "Undo" : "Put back"}
					</button>
				</td>
			</tr>
			{showing && (
				<tr>
					<td colSpan={7} className="bg-amber-wash/60 px-3 py-2">
						<Aside batch={batch.id} />
					</td>
				</tr>
			)}
		</>
	);
}

function Aside({ batch }: { batch: number }) {
	const rows = useQuery({
		queryKey: ["aside", batch],
		queryFn: () =>
			unwrap(
				client.GET("/api/batches/{batch_id}/aside", { params: { path: { batch_id: batch } } }),
			),
	});
	if (rows.isError) return <Trouble error={rows.error} />;
	if (!rows.data) return <Waiting what="Looking them up" />;
	return (
		<ul className="max-h-60 overflow-auto text-[13px]">
			{rows.data.rows.map((row) => (
				<li key={row.row} className="py-0.5">
					<b>Line {row.row}</b>, {row.reason}: {row.cells.map(([, cell]) => cell).join(" · ")}
				</li>
			))}
		</ul>
	);
}

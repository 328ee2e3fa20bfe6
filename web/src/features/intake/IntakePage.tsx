import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type DragEvent, useState } from "react";
import { client, unwrap, uploadDraft } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { History } from "./History";

type Kind = "roster" | "results";

/** Where files come in: two places to drop them, what waits, and everything kept so far. */
export function IntakePage() {
	return (
		<div className="grid h-full grid-cols-[340px_1fr]">
			<section aria-label="Bring in" className="overflow-auto border-r border-line px-5 py-4">
				<h1 className="mb-1 text-xl font-bold">Intake</h1>
				<p className="mb-4 text-muted">
					Nothing is kept before you have seen what would be. Text files (CSV) of any usual
					encoding.
				</p>
				<Drop
					kind="roster"
					title="A roster"
					help="A row per student: number, school, and whatever else you have."
				/>
				<Drop
					kind="results"
					title="Results"
					help="A row per student and test: number, test, score."
				/>
				<Waiters />
			</section>
			<History />
		</div>
	);
}

function Drop({ kind, title, help }: { kind: Kind; title: string; help: string }) {
	const navigate = useNavigate();
	const [over, setOver] = useState(false);
	const upload = useMutation({
		mutationFn: (file: File) => uploadDraft(kind, file),
		onSuccess: (draft) => navigate({ to: "/intake/$draftId", params: { draftId: draft.id } }),
	});
	function drop(event: DragEvent): void {
		event.preventDefault();
		setOver(false);
		const file = event.dataTransfer.files[0];
		if (file) upload.mutate(file);
	}
	return (
		<div className="mb-4">
			<label
				onDragOver={(event) => {
					event.preventDefault();
					setOver(true);
				}}
				onDragLeave={() => setOver(false)}
				onDrop={drop}
				className={`block cursor-pointer rounded border border-dashed px-4 py-4 focus-within:outline-2 focus-within:outline-ahead ${over ? "border-amber bg-amber-wash" : "border-neither hover:bg-wash"}`}
			>
				<span className="block font-bold">{title}</span>
				<span className="block text-muted">{help}</span>
				<span className="mt-2 block font-semibold text-ahead">
					{upload.isPending ? "Reading…" : "Drop a file here, or choose one"}
				</span>
				<input
					type="file"
					className="sr-only"
					aria-label={`${title}: choose a file`}
					accept=".csv,.txt,.tsv,text/csv,text/plain"
					onChange={(event) => {
						const file = event.target.files?.[0];
						if (file) upload.mutate(file);
						event.target.value = "";
					}}
				/>
			</label>
			{upload.isError && (
				<div className="mt-2">
					<Trouble error={upload.error} />
				</div>
			)}
		</div>
	);
}

function Waiters() {
	const queries = useQueryClient();
	const waiting = useQuery({
		queryKey: ["drafts"],
		refetchOnMount: "always",
		queryFn: () => unwrap(client.GET("/api/drafts")),
	});
	const drop = useMutation({
		mutationFn: (id: string) =>
			unwrap(
				client.DELETE("/api/drafts/{draft_id}", { params: { path: { draft_id: id } } }) as never,
			),
		onSettled: () => queries.invalidateQueries({ queryKey: ["drafts"] }),
	});
	if (waiting.isPending) return <Waiting what="Looking for waiting files" />;
	if (waiting.isError) return <Trouble error={waiting.error} />;
	if (waiting.data.drafts.length === 0) return null;
	return (
		<>
			<h2 className="mb-1 font-bold">Waiting to be kept</h2>
			<ul>
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

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type DragEvent, useState } from "react";
import { client, type DraftState, type FileKind, unwrap, uploadDraft } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { History } from "./History";

/** Where files come in: two places to drop them, what waits, and everything kept so far. */
export function IntakePage() {
	return (
		<div className="grid h-full grid-cols-[340px_1fr]">
			<section aria-label="Bring in" className="overflow-auto border-r border-line px-5 py-4">
				<h1 className="mb-1 text-xl font-bold">Intake</h1>
				<p className="mb-4 text-muted">
					Nothing is kept before you have seen what would be. CSV of any usual encoding, Excel and
					OpenDocument workbooks, Parquet, or a ZIP of several.
				</p>
				<Waiters />
				<Drop
					kind="roster"
					title="A roster"
					help="A row per student: number, school, and whatever else you have."
				/>
				<Drop
					kind="results"
					title="Results"
					help="A row per student and test, or a column per subject."
				/>
				<TableDrop />
				<h2 className="mb-1 font-bold">By hand, and out</h2>
				<ul className="mb-4">
					<li>
						<Link to="/intake/grid" className="font-semibold text-ahead hover:underline">
							A grid of students by results
						</Link>
						<span className="block text-muted">Type, paste, or take it to a spreadsheet.</span>
					</li>
					<li className="mt-1">
						<Link to="/intake/scale" className="font-semibold text-ahead hover:underline">
							A scale of grades or levels
						</Link>
						<span className="block text-muted">Order, points, pass line, cut scores.</span>
					</li>
					<li className="mt-1">
						<a href="/api/bundle" download className="font-semibold text-ahead hover:underline">
							Everything, for another program
						</a>
						<span className="block text-muted">
							A OneRoster bundle: rosters of today, all scores.
						</span>
					</li>
				</ul>
			</section>
			<History />
		</div>
	);
}

const TABLES = [
	{ key: "scale", label: "a scale", help: "A row per grade or level." },
	{
		key: "questions",
		label: "questions of a test",
		help: "A row per question: strand, topic, key.",
	},
	{ key: "national", label: "national figures", help: "A row per figure of a test." },
] as const;

/** Tables of reference: what each holds is said first, for their columns look alike. */
function TableDrop() {
	const [kind, setKind] = useState<FileKind>("scale");
	return (
		<>
			<label className="mb-1 flex items-center gap-2">
				<span className="font-bold">A table of reference:</span>
				<select
					className="select select-sm w-40"
					value={kind}
					onChange={(event) => setKind(event.target.value as FileKind)}
				>
					{TABLES.map((table) => (
						<option key={table.key} value={table.key}>
							{table.label}
						</option>
					))}
				</select>
			</label>
			<Drop kind={kind} title="" help={TABLES.find((table) => table.key === kind)?.help ?? ""} />
		</>
	);
}

function Drop({ kind, title, help }: { kind: FileKind; title: string; help: string }) {
	const navigate = useNavigate();
	const queries = useQueryClient();
	const [over, setOver] = useState(false);
	const upload = useMutation({
		mutationFn: (files: File[]) => bringAll(kind, files),
		onSuccess: (drafts) => {
			const [only, ...more] = drafts;
			if (only && more.length === 0 && (only.came_with ?? []).length === 0)
				return navigate({ to: "/intake/$draftId", params: { draftId: only.id } });
		},
		onSettled: () => queries.invalidateQueries({ queryKey: ["drafts"] }),
	});
	function drop(event: DragEvent): void {
		event.preventDefault();
		setOver(false);
		upload.mutate([...event.dataTransfer.files]);
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
				{title && <span className="block font-bold">{title}</span>}
				<span className="block text-muted">{help}</span>
				<span className="mt-2 block font-semibold text-ahead">
					{upload.isPending ? "Reading…" : "Drop files here, or choose them"}
				</span>
				<input
					type="file"
					className="sr-only"
					aria-label={`${title || "Table of reference"}: choose a file`}
					multiple
					accept=".csv,.txt,.tsv,.xlsx,.xlsm,.xls,.ods,.parquet,.zip"
					onChange={(event) => {
						upload.mutate([...(event.target.files ?? [])]);
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

/** Every file that can be read waits; the first that cannot is said. */
async function bringAll(kind: FileKind, files: File[]): Promise<DraftState[]> {
	const drafts: DraftState[] = [];
	const troubles: unknown[] = [];
	for (const file of files) {
		await uploadDraft(kind, file).then(
			(draft) => drafts.push(draft),
			(error) => troubles.push(error),
		);
	}
	if (troubles.length > 0) throw troubles[0];
	return drafts;
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

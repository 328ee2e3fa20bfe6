import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { client, type Schemas, unwrap } from "../../api/client";
import { count, figure } from "../../lib/numbers";
import { day, moment } from "../../lib/words";
import type { Column } from "../../ui/DataTable";
import { Trouble } from "../../ui/Trouble";
import { done } from "../../ui/toasts";
import { Waiting } from "../../ui/Waiting";

export type Batch = Schemas["BatchItem"];

/** What is shown below a kept file. */
export type Shown = "aside" | "undo";
type Show = (batch: Batch, what: Shown | undefined) => void;

/** One kept file a row: what stands, what is set aside, undo with what it would mean. */
export function batchColumns(
	open: (batch: Batch) => Shown | undefined,
	show: Show,
): Column<Batch>[] {
	const narrow = "whitespace-nowrap py-1.5";
	return [
		{
			key: "title",
			label: "What",
			side: "left",
			className: "py-1.5",
			cell: (batch) => <Title batch={batch} />,
		},
		{
			key: "file",
			label: "File",
			side: "left",
			className: "max-w-28 truncate py-1.5 xl:max-w-44",
			cell: (batch) => (
				<span title={[archiveOf(batch), batch.file].filter(Boolean).join(": ")}>
					{archiveOf(batch) && <span className="block text-muted">{archiveOf(batch)}</span>}
					{batch.file}
				</span>
			),
		},
		{
			key: "from",
			label: "Holds from",
			side: "left",
			className: narrow,
			cell: (batch) => (batch.effective_date ? day(batch.effective_date) : ""),
		},
		{ key: "kept", label: "Rows kept", cell: (batch) => figure(batch.rows_kept, 0) },
		{
			key: "aside",
			label: "Set aside",
			className: "pr-6",
			cell: (batch) => <AsideButton {...{ batch, show }} open={open(batch) === "aside"} />,
		},
		{ key: "when", label: "When, by", side: "left", cell: whenBy },
		{
			key: "change",
			label: <span className="sr-only">Change</span>,
			cell: (batch) => <Standing {...{ batch, show }} open={open(batch) === "undo"} />,
		},
	];
}

/** The archive that it came in, without its mark; blank where it came alone. */
function archiveOf(batch: Batch): string {
	return batch.archive.replace(/ [^ ]*$/, "");
}

function Title({ batch }: { batch: Batch }) {
	if (batch.event === "kept") return batch.title;
	return (
		<>
			<span className="line-through">{batch.title}</span>
			<span className="font-normal"> · undone</span>
		</>
	);
}

function whenBy(batch: Batch): string {
	return `${moment(batch.event_at)}, ${batch.by ?? "command line"}`;
}

interface ButtonProps {
	batch: Batch;
	open: boolean;
	show: Show;
}

function AsideButton({ batch, open, show }: ButtonProps) {
	if (!batch.rows_set_aside) return "0";
	return (
		<button
			type="button"
			className="font-semibold text-amber-ink hover:underline"
			aria-expanded={open}
			aria-label={`${batch.rows_set_aside} rows of ${batch.title} set aside. Show`}
			onClick={() => show(batch, open ? undefined : "aside")}
		>
			{figure(batch.rows_set_aside, 0)}
		</button>
	);
}

/** Undo, which says first what it would mean; or put back, which loses nothing. */
function Standing({ batch, open, show }: ButtonProps) {
	const kept = batch.event === "kept";
	const change = useStanding(batch, () => show(batch, undefined));
	return (
		<button
			type="button"
			className="btn btn-outline btn-xs"
			disabled={change.isPending}
			aria-label={`${kept ? "Undo" : "Put back"} ${batch.title}, ${batch.file}`}
			aria-expanded={kept ? open : undefined}
			onClick={() => (kept ? show(batch, open ? undefined : "undo") : change.mutate())}
		>
			{kept ? "Undo" : "Put back"}
		</button>
	);
}

/** What is opened below a kept file. */
export function BatchMore(props: { batch: Batch; open: Shown; done: () => void }) {
	const { batch, open, done } = props;
	const change = useStanding(batch, done);
	return (
		<>
			{open === "aside" ? (
				<Aside batch={batch} />
			) : (
				<UndoAsked batch={batch} busy={change.isPending} undo={() => change.mutate()} shut={done} />
			)}
			{change.isError && <Trouble error={change.error} />}
		</>
	);
}

type Way = "undo" | "put-back";

function useStanding(batch: Batch, shut: () => void, archive = false) {
	const queries = useQueryClient();
	const params = { params: { path: { batch_id: batch.id }, query: { archive } } };
	const go = (way: Way) =>
		unwrap(
			way === "undo"
				? client.POST("/api/batches/{batch_id}/undo", params)
				: client.POST("/api/batches/{batch_id}/put-back", params),
		);
	const way: Way = batch.event === "kept" ? "undo" : "put-back";
	const back = () =>
		go(way === "undo" ? "put-back" : "undo").then(() => queries.invalidateQueries());
	return useMutation({
		mutationFn: () => go(way),
		onSuccess: () => {
			shut();
			done(`${batch.title} ${way === "undo" ? "is undone" : "is put back"}.`, back);
		},
		onSettled: () => queries.invalidateQueries(),
	});
}

interface AskedProps {
	batch: Batch;
	busy: boolean;
	undo: () => void;
	shut: () => void;
}

/** What an undo would mean, before it is done. */
function UndoAsked({ batch, busy, undo, shut }: AskedProps) {
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
			<div className="flex flex-col items-end gap-2">
				<button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={undo}>
					{busy ? "Working…" : `Undo ${batch.title}`}
				</button>
				{batch.archive && <UndoArchive batch={batch} shut={shut} />}
				<ReadAgain batch={batch} />
			</div>
		</div>
	);
}

/** All that came in one archive is taken back in one step. */
function UndoArchive({ batch, shut }: { batch: Batch; shut: () => void }) {
	const change = useStanding(batch, shut, true);
	return (
		<>
			<button
				type="button"
				className="btn btn-outline btn-sm"
				disabled={change.isPending}
				onClick={() => change.mutate()}
			>
				{change.isPending ? "Working…" : `Undo all of ${archiveOf(batch)}`}
			</button>
			{change.isError && <Trouble error={change.error} />}
		</>
	);
}

/** The file as it waited once, so that its date, names or columns can be said otherwise. */
function ReadAgain({ batch }: { batch: Batch }) {
	const navigate = useNavigate();
	const queries = useQueryClient();
	const params = { params: { path: { batch_id: batch.id } } };
	const again = useMutation({
		mutationFn: () => unwrap(client.POST("/api/batches/{batch_id}/again", params)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.draft_id } }),
		onSettled: () => queries.invalidateQueries(),
	});
	return (
		<>
			<button
				type="button"
				className="btn btn-outline btn-sm"
				disabled={again.isPending}
				onClick={() => again.mutate()}
			>
				{again.isPending ? "Working…" : "Undo, and say it otherwise"}
			</button>
			{again.isError && <Trouble error={again.error} />}
		</>
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

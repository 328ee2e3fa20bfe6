import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { count } from "../../lib/numbers";
import { Trouble } from "../../ui/Trouble";

export type Work = Schemas["Work"];

export const POLL_MS = 700;

export function underWay(work: Work | null | undefined): boolean {
	return work?.state === "waiting" || work?.state === "running";
}

/** What is left, in words that do not pretend to be exact. */
export function leftWords(seconds: number | null | undefined): string {
	if (seconds == null) return "";
	if (seconds < 5) return "a few seconds left";
	if (seconds < 90) return `about ${count(Math.ceil(seconds / 5) * 5, "second")} left`;
	return `about ${count(Math.round(seconds / 60), "minute")} left`;
}

/** How far a worker is with a large file, with a way to stop it; or why it ended. */
export function WorkLine({ work }: { work: Work }) {
	const queries = useQueryClient();
	const stop = useMutation({
		mutationFn: () =>
			unwrap(client.POST("/api/work/{work_id}/stop", { params: { path: { work_id: work.id } } })),
		onSettled: () =>
			Promise.all(
				["draft", "drafts", "work"].map((key) => queries.invalidateQueries({ queryKey: [key] })),
			),
	});
	if (!underWay(work)) return <Ended work={work} />;
	const share = Math.round(work.share * 100);
	const nobody = work.state === "waiting" && work.waited_seconds > 15;
	const what = work.doing === "keep" ? "Keeping the file" : "Looking into the file";
	return (
		<div className="rounded border border-line bg-wash px-4 py-3">
			<div className="flex items-baseline gap-3">
				<p className="font-semibold">{what}</p>
				<p className="text-muted" role="status">
					{work.phase}, {leftWords(work.left_seconds)}
				</p>
				<button
					type="button"
					className="btn btn-outline btn-xs ml-auto"
					disabled={stop.isPending}
					onClick={() => stop.mutate()}
				>
					Stop
				</button>
			</div>
			<div
				role="progressbar"
				aria-label={what}
				aria-valuenow={share}
				aria-valuemin={0}
				aria-valuemax={100}
				className="mt-2 h-2 rounded-full border border-neither bg-paper"
			>
				<div
					className="h-full rounded-full bg-ahead transition-[width] duration-500"
					style={{ width: `${share}%` }}
				/>
			</div>
			<p className="mt-1 text-[13px] text-muted">
				{nobody
					? "No worker has taken it yet: it is busy with another file, or none runs. Whoever runs this instance starts one with ./bridge work."
					: "This page may be closed: the work goes on, and the file is found under Intake."}
			</p>
			{stop.isError && <Trouble error={stop.error} />}
		</div>
	);
}

function Ended({ work }: { work: Work }) {
	if (work.state === "cancelled")
		return (
			<p role="status" className="rounded border border-line bg-wash px-4 py-3">
				{work.doing === "keep" ? "Keeping was stopped." : "It was stopped."} Nothing was changed;
				the file waits as it was.
			</p>
		);
	if (!work.error) return null;
	return (
		<div role="alert" className="rounded border border-behind/40 bg-behind-wash px-4 py-3">
			<p className="font-semibold text-behind">{work.error.message}</p>
			{work.error.kept && <p>{work.error.kept}</p>}
			{work.error.next && <p className="text-muted">{work.error.next}</p>}
		</div>
	);
}

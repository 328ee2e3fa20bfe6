import { ApiError } from "../api/client";

/** An error in our three sentences: what happened, what was kept safe, what to do. */
export function Trouble({ error }: { error: unknown }) {
	const ours = error instanceof ApiError ? error : undefined;
	return (
		<div role="alert" className="rounded border border-behind/40 bg-behind-wash px-4 py-3">
			<p className="font-semibold text-behind">
				{ours?.message ?? "This page could not be shown."}
			</p>
			{ours?.kept && <p>{ours.kept}</p>}
			{ours?.next && <p className="text-muted">{ours.next}</p>}
		</div>
	);
}

import { ApiError, type Question } from "../api/client";

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

/** The nearest question that is answered, to click, where the server knows one. */
export function Instead({ error, ask }: { error: unknown; ask: (to: Partial<Question>) => void }) {
	const to = error instanceof ApiError ? error.instead : undefined;
	if (!to) return null;
	return (
		<button type="button" className="btn btn-primary btn-sm mt-3 mr-2" onClick={() => ask(to)}>
			Ask the nearest that is published
		</button>
	);
}

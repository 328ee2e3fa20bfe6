export function Waiting({ what }: { what: string }) {
	return (
		<p data-waiting role="status" className="flex items-center gap-2 p-6 text-muted">
			<span className="loading loading-spinner loading-sm" aria-hidden="true" /> {what}
		</p>
	);
}

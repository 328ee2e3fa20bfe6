interface Props {
	/** What is still wrong; nothing where it can be looked at. */
	wrong: string | undefined;
	busy: boolean;
	look: () => void;
}

/** What is typed goes the way of every file: what would be kept is seen first. */
export function SeeFirst({ wrong, busy, look }: Props) {
	return (
		<div className="mt-4 flex items-center gap-4">
			<button
				type="button"
				className="btn btn-primary btn-sm"
				disabled={wrong !== undefined || busy}
				onClick={look}
			>
				See what would be kept
			</button>
			<p role="status" className="text-muted">
				{wrong}
			</p>
		</div>
	);
}

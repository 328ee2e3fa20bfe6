import { useEffect, useRef } from "react";

const KEYS = [
	["q", "to the question"],
	["/", "find a student, a class, a test"],
	["1 – 6", "the lenses, from left to right"],
	["t", "the numbers, and back"],
	["d", "everything that went into the method"],
	["[ ]", "previous and next split"],
	["Enter", "open the mark that has the focus"],
	["Esc", "close"],
	["?", "these keys"],
] as const;

export function KeyHelp({ close }: { close: () => void }) {
	const shut = useRef<HTMLButtonElement>(null);
	useEffect(() => shut.current?.focus(), []);
	return (
		<div
			role="dialog"
			aria-label="All keys"
			className="absolute top-24 left-1/2 z-30 w-[360px] -translate-x-1/2 rounded-md border border-line bg-white p-4 shadow-xl"
		>
			<h2 className="mb-2 font-bold">Keys</h2>
			<dl className="mb-3 grid grid-cols-[80px_1fr] gap-y-1">
				{KEYS.map(([key, what]) => (
					<div key={key} className="contents">
						<dt>
							<kbd className="rounded border border-line bg-wash px-1.5">{key}</kbd>
						</dt>
						<dd>{what}</dd>
					</div>
				))}
			</dl>
			<button ref={shut} type="button" className="btn btn-sm" onClick={close}>
				Close
			</button>
		</div>
	);
}

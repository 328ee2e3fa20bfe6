interface ChoiceProps {
	chosen: boolean;
	words: string;
	aside?: string;
	why?: string;
	pick: () => void;
}

/** One line of a picker; `why` says why it cannot be chosen. */
export function Choice({ chosen, words, aside, why, pick }: ChoiceProps) {
	return (
		<button
			type="button"
			aria-pressed={chosen}
			disabled={Boolean(why)}
			onClick={pick}
			className={`flex w-full items-baseline justify-between gap-3 rounded px-2 py-1 text-left enabled:hover:bg-amber-wash disabled:cursor-default disabled:text-muted ${chosen ? "bg-amber-wash font-semibold" : ""}`}
		>
			<span>
				{words}
				{why && <span className="block text-xs">{why}</span>}
			</span>
			{aside && <span className="shrink-0 text-xs text-muted">{aside}</span>}
		</button>
	);
}

/** A heading inside a picker. */
export function Heading({ children }: { children: string }) {
	return <p className="px-2 pt-2 pb-0.5 text-xs font-semibold text-muted">{children}</p>;
}

interface TickProps {
	checked: boolean;
	words: string;
	aside?: string;
	change: () => void;
}

export function Tick({ checked, words, aside, change }: TickProps) {
	return (
		<label className="flex items-baseline gap-2 rounded px-1 py-0.5 hover:bg-amber-wash">
			<input
				type="checkbox"
				className="relative top-0.5 accent-(--color-ahead)"
				checked={checked}
				onChange={change}
			/>
			<span>{words}</span>
			{aside && <span className="ml-auto text-xs text-muted">{aside}</span>}
		</label>
	);
}

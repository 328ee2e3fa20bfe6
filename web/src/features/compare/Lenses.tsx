const LENSES = [
	{ key: "spans", name: "Spans" },
	{ key: "levels", name: "Levels" },
	{ key: "spread", name: "Spread" },
	{ key: "start_to_now", name: "Start to now" },
	{ key: "over_time", name: "Over time" },
	{ key: "table", name: "Table" },
] as const;

interface Props {
	show: string;
	choose: (lens: "spans" | "table") => void;
	sorted: { by: string; dir?: "asc" | "desc" } | undefined;
	against: boolean;
}

/** One question in several ways; a lens that cannot serve is dimmed and says why. */
export function Lenses({ show, choose, sorted, against }: Props) {
	const by = sorted
		? `sorted by ${sorted.by}, ${sorted.dir === "desc" ? "highest" : "lowest"} first`
		: "";
	return (
		<div className="mb-2 flex shrink-0 items-center">
			<div role="toolbar" aria-label="Lens" className="no-print flex">
				{LENSES.map((lens) => {
					const built = lens.key === "spans" || lens.key === "table";
					return (
						<button
							key={lens.key}
							type="button"
							aria-pressed={show === lens.key}
							aria-disabled={!built}
							title={built ? undefined : "This lens is not built yet"}
							onClick={() => built && choose(lens.key)}
							className={`rounded px-3 py-1 ${show === lens.key ? "bg-ink font-semibold text-paper" : built ? "text-muted hover:bg-wash" : "cursor-default text-muted/90 italic"}`}
						>
							{lens.name}
						</button>
					);
				})}
			</div>
			<span className="ml-auto text-xs text-muted">
				{by || (against ? "sorted by span, furthest behind first" : "sorted by mean, lowest first")}
			</span>
		</div>
	);
}

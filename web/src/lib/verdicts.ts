/** The symbol comes from the row's verdict alone: in chart, table and words. */
export const SYMBOL: Record<string, string> = {
	ahead: "▲",
	behind: "▼",
	alike: "●",
	unclear: "○",
	few: "◇",
	none: "",
};

export const MEANING: Record<string, string> = {
	ahead: "ahead by more than chance would give",
	behind: "behind by more than chance would give",
	alike: "shown to be close",
	unclear: "too wide to tell",
	few: "too few to judge",
	none: "",
};

export function tone(verdict: string): string {
	if (verdict === "ahead") return "text-ahead";
	if (verdict === "behind") return "text-behind";
	return "text-muted";
}

export function colour(verdict: string): string {
	if (verdict === "ahead") return "var(--color-ahead)";
	if (verdict === "behind") return "var(--color-behind)";
	return "var(--color-neither)";
}

const BECAUSE: Record<string, string> = {
	by_construction: "not judged: so by construction",
	whole: "not judged: there are no others",
	chosen_by_outcome: "not judged: chosen by the result itself",
	start: "may be error in where they started",
};

/** What a row's symbol means, or why it has none. */
export function meaning(row: { verdict?: string; because?: string | null }): string {
	const verdict = MEANING[row.verdict ?? "none"] ?? "";
	const because = row.because ? BECAUSE[row.because] : "";
	return [verdict, because].filter(Boolean).join(", ");
}

/** Light or dark: as the system says, or as somebody chose in this browser. */
export type Choice = "system" | "light" | "dark";

const KEY = "bridge-chart-appearance";
const THEMES = { light: "almanac", dark: "night" } as const;

export function chosen(): Choice {
	const kept = localStorage.getItem(KEY);
	return kept === "light" || kept === "dark" ? kept : "system";
}

export function choose(choice: Choice): void {
	if (choice === "system") localStorage.removeItem(KEY);
	else localStorage.setItem(KEY, choice);
	paint();
}

/** Puts the theme on the page, and follows the system from then on. */
export function followSystem(): void {
	paint();
	window.matchMedia("(prefers-color-scheme: dark)").addEventListener("change", paint);
}

function paint(): void {
	const dark = window.matchMedia("(prefers-color-scheme: dark)").matches;
	const choice = chosen();
	const theme = choice === "system" ? (dark ? THEMES.dark : THEMES.light) : THEMES[choice];
	document.documentElement.dataset.theme = theme;
}

export const DASHES = ["", "7 4", "2 3", "10 3 2 3", "5 2", "1 4"];
/** Told apart by dash and label as well, so that grey print reads. */
export const INKS = [
	"var(--color-ahead)",
	"var(--color-behind)",
	"var(--color-ink)",
	"var(--color-amber-ink)",
	"var(--color-neither)",
	"color-mix(in oklab, var(--color-ahead) 55%, var(--color-ink))",
];

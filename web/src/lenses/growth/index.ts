import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";
import { sinceEarlier } from "../since";

/** Beside those who started alike, beside the growth of a table, beside the nation. */
export const growth: Lens = {
	show: "growth",
	name: "Growth",
	View: later(async () => (await import("./Growth")).Growth),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: true,
	whyNot: (asked) => {
		if (asked.sitting?.has_figures === false) return "Grades without points have no mean";
		return sinceEarlier(asked, "Growth");
	},
};

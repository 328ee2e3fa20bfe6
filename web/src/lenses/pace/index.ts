import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";
import { sinceEarlier } from "../since";

/** Steps made, how much that is a year, and where it ends. */
export const pace: Lens = {
	show: "pace",
	name: "Pace",
	View: later(async () => (await import("./Pace")).PaceView),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: true,
	whyNot: (asked) => {
		if (asked.sitting?.has_figures === false) return "Grades without points have no mean";
		return sinceEarlier(asked, "Pace");
	},
};

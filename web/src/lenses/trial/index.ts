import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

/** What it would take, and what would be then. */
export const trial: Lens = {
	show: "trial",
	name: "Try",
	View: later(async () => (await import("./Try")).Try),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: false,
	whyNot: ({ question, first, sitting, parted }) => {
		if (question.what.length > 1) return "One measure is tried at a time";
		if (first && ("derive" in first || "statistic" in first))
			return "Levels or grades are tried, not what is worked out of them";
		if (parted) return "Parts of a test have no levels";
		if (sitting && sitting.steps.length === 0) return "This test has no levels or grades";
		if (question.against && "group" in question.against)
			return "Level with a start, a target or a figure, not with a group";
		return undefined;
	},
};

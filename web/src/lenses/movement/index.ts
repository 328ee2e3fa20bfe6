import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

/** From which level to which, and what that is worth. */
export const movement: Lens = {
	show: "movement",
	name: "Movement",
	View: later(async () => (await import("./Movement")).Movement),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: true,
	whyNot: ({ question, first, sitting, parted }) => {
		if (question.what.length > 1) return "Movement is looked at for one measure at a time";
		if (first && ("derive" in first || "statistic" in first))
			return "A figure that is worked out has no levels";
		if (parted) return "Parts of a test have no levels";
		if (sitting && sitting.steps.length === 0) return "This test has no levels or grades";
		if (!question.against || !("earlier" in question.against))
			return "Measured against an earlier sitting";
		return undefined;
	},
};

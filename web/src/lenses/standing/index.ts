import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

/** Below, on and above what they are held against. */
export const standing: Lens = {
	show: "standing",
	name: "Standing",
	View: later(async () => (await import("./Standing")).Standing),
	Numbers: later(async () => (await import("./Standing")).Numbers),
	pins: true,
	whyNot: ({ question, first, parted }) => {
		if (question.what.length > 1) return "Standing is looked at for one measure at a time";
		if (first && ("derive" in first || "statistic" in first))
			return "Asked of a result, not of what is worked out of it";
		if (parted) return "Asked of a whole test";
		if (!question.against || "group" in question.against)
			return "Measured against a target, a growth, a start or an earlier sitting";
		return undefined;
	},
};

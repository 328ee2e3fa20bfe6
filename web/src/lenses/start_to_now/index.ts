import { later } from "../../lib/later";
import { type Lens, noMean } from "../../question/model/lens";

export const startToNow: Lens = {
	show: "start_to_now",
	name: "Start to now",
	View: later(async () => (await import("./StartToNow")).StartToNow),
	Numbers: later(async () => (await import("./Numbers")).StartNumbers),
	pins: false,
	whyNot: (asked) => {
		if (asked.share) return "A share is a figure of a group, not of a student";
		if (asked.question.what.length > 1) return "Choose one measure";
		if (asked.sitting && !asked.sitting.has_prior)
			return "There is no earlier sitting to start from";
		return noMean(asked);
	},
};

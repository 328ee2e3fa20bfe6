import { later } from "../../lib/later";
import { type Lens, noMean } from "../../question/model/lens";

export const overTime: Lens = {
	show: "over_time",
	name: "Over time",
	View: later(async () => (await import("./OverTime")).OverTime),
	Numbers: later(async () => (await import("./Numbers")).TimeNumbers),
	pins: false,
	whyNot: (asked) => {
		const { sitting, question } = asked;
		const one = sitting && !sitting.has_earlier && question.what.length < 2;
		return noMean(asked) ?? (one ? "There is one sitting only" : undefined);
	},
};

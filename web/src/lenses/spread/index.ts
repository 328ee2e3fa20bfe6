import { later } from "../../lib/later";
import { type Lens, noMean } from "../../question/model/lens";

export const spread: Lens = {
	show: "spread",
	name: "Spread",
	View: later(async () => (await import("./Spread")).Spread),
	Numbers: later(async () => (await import("./Numbers")).SpreadNumbers),
	pins: true,
	whyNot: (asked) =>
		asked.share ? "A share is a figure of a group, not of a student" : noMean(asked),
};

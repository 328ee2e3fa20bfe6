import { later } from "../../lib/later";
import { type Lens, noMean } from "../../question/model/lens";

export const sure: Lens = {
	show: "sure",
	name: "How sure",
	View: later(async () => (await import("./HowSure")).HowSure),
	pins: false,
	whyNot: (asked) => {
		const { question } = asked;
		const held = question.against && "prior" in question.against;
		if (question.what.length > 1 || !held) return "Asked of one measure against where they started";
		return noMean(asked);
	},
};

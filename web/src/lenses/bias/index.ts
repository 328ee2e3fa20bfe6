import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

export const bias: Lens = {
	show: "bias",
	name: "Fairness",
	View: later(async () => (await import("./Fairness")).Fairness),
	pins: false,
	whyNot: ({ question, sitting, parted, share }) => {
		if (question.what.length > 1) return "One test is looked into at a time";
		if (parted || share) return "Asked of a whole test";
		if (sitting && !sitting.parts?.some((part) => part.kind === "question"))
			return "No marks by question are kept of this sitting";
		return undefined;
	},
};

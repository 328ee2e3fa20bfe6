import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

export const items: Lens = {
	show: "items",
	name: "Questions",
	View: later(async () => (await import("./Questions")).Questions),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: false,
	whyNot: ({ question, sitting, parted, share }) => {
		if (question.what.length > 1) return "One test is looked into at a time";
		if (parted || share) return "Asked of a whole test";
		if (sitting && !sitting.parts?.some((part) => part.kind === "question"))
			return "No marks by question are kept of this sitting";
		const against = question.against;
		return against && !("group" in against)
			? "Held against others who sat it, or against nothing"
			: undefined;
	},
};

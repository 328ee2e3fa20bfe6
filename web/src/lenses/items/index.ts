import { later } from "../../lib/later";
import { type Lens, noQuestions } from "../../question/model/lens";

export const items: Lens = {
	show: "items",
	name: "Questions",
	View: later(async () => (await import("./Questions")).Questions),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: false,
	whyNot: (asked) => {
		const { against } = asked.question;
		if (against && !("group" in against))
			return "Held against others who sat it, or against nothing";
		return noQuestions(asked);
	},
};

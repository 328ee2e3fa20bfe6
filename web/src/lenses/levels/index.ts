import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";
import { IN_WORDS } from "../../question/model/question";

export const levels: Lens = {
	show: "levels",
	name: "Levels",
	View: later(async () => (await import("./Levels")).Levels),
	Numbers: later(async () => (await import("./Numbers")).LevelNumbers),
	pins: true,
	whyNot: ({ first, sitting, parted }) => {
		if (first && "derive" in first && IN_WORDS.includes(first.derive)) return undefined;
		if (first && "derive" in first) return "A figure that is worked out has no levels";
		if (parted) return "Parts of a test have no levels";
		if (sitting && sitting.steps.length === 0) return "This test has no levels or grades";
		return undefined;
	},
};

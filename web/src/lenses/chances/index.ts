import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

/** What a level on this test has meant for a later one. */
export const chances: Lens = {
	show: "chances",
	name: "Chances",
	View: later(async () => (await import("./Chances")).Chances),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: false,
	whyNot: ({ question, first, sitting, parted }) => {
		if (question.what.length > 1) return "Chances are looked at for one measure at a time";
		if (first && ("derive" in first || "statistic" in first))
			return "A figure that is worked out has no levels";
		if (parted) return "Parts of a test have no levels";
		if (sitting && sitting.steps.length === 0) return "This test has no levels or grades";
		if (sitting && !sitting.has_later) return "Nobody of an earlier year went on to a later test";
		return undefined;
	},
};

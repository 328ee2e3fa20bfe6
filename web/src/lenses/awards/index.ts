import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

/** Each condition of an award met, on course or not yet; the award by group. */
export const awards: Lens = {
	show: "awards",
	name: "Conditions",
	View: later(async () => (await import("./Awards")).Awards),
	Numbers: later(async () => (await import("./Numbers")).Numbers),
	pins: true,
	whyNot: () => undefined,
};

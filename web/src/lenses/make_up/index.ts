import { later } from "../../lib/later";
import type { Lens } from "../../question/model/lens";

/** Reached from those in focus, not from the bar. */
export const makeUp: Lens = {
	show: "make_up",
	name: "Make-up",
	View: later(async () => (await import("./MakeUp")).MakeUp),
	pins: false,
	whyNot: () => undefined,
};

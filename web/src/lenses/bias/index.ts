import { later } from "../../lib/later";
import { type Lens, noQuestions } from "../../question/model/lens";

export const bias: Lens = {
	show: "bias",
	name: "Fairness",
	View: later(async () => (await import("./Fairness")).Fairness),
	pins: false,
	whyNot: noQuestions,
};

import { byMean, type Lens, noMean } from "../../question/model/lens";
import { Spans } from "./Spans";

export const spans: Lens = {
	show: "spans",
	name: "Spans",
	View: Spans,
	pins: true,
	sorted: byMean,
	whyNot: noMean,
};

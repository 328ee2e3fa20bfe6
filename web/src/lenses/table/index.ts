import { later } from "../../lib/later";
import { byMean, type Lens, noMean } from "../../question/model/lens";

export const table: Lens = {
	show: "table",
	name: "Table",
	View: later(async () => (await import("./Table")).Table),
	pins: true,
	sorted: byMean,
	whyNot: noMean,
};

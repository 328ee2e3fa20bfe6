import type { Catalogue, Question } from "../../api/client";
import { measureOf } from "../../question/model/question";
import { againstEarlier } from "../../question/model/yardsticks";

/** The first question about progress: the newest test with levels that has an earlier sitting, each
 * school (or class) as it moved since. */
export function firstOfProgress(catalogue: Catalogue): Question | undefined {
	const measure = catalogue.measures.find((item) => item.steps.length > 1 && item.has_earlier);
	if (!measure) return undefined;
	return {
		question: 1,
		show: "movement",
		what: [measureOf(measure, {})],
		split: [{ field: catalogue.schools.length > 1 ? "school" : "class" }],
		against: againstEarlier(),
	};
}

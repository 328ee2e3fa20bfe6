import type { Catalogue, Question } from "../../api/client";
import { measureOf } from "../../question/model/question";
import { againstGroup } from "../../question/model/yardsticks";

/** The first question about the inside of a test: its newest sitting with marks by question, one
 * form of it, each school (or class) beside everybody else who sat it. */
export function firstOfTests(catalogue: Catalogue): Question | undefined {
	const measure = catalogue.measures.find((item) =>
		item.parts?.some((part) => part.kind === "question"),
	);
	if (!measure) return undefined;
	const form = measure.forms[0];
	const schools = catalogue.schools.length > 1;
	return {
		question: 1,
		show: "items",
		what: [measureOf(measure, form ? { form } : {})],
		split: [{ field: schools ? "school" : "class" }],
		// Whoever sees a part of the district is held against the rest of it, without a yardstick.
		...(schools ? { against: againstGroup([]) } : {}),
	};
}

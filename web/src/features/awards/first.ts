import type { Catalogue, Question } from "../../api/client";
import { awardIn } from "../../question/model/awards";

/** The first question about awards: the newest year's award of most conditions, of the oldest year level, by
 * school (or class). */
export function firstOfAwards(catalogue: Catalogue): Question | undefined {
	const newest = (catalogue.awards ?? []).filter(
		(one) => one.school_year === catalogue.awards?.[0]?.school_year,
	);
	const award = [...newest].sort((a, b) => b.conditions.length - a.conditions.length)[0];
	if (!award) return undefined;
	const oldest = catalogue.year_levels.map((one) => Number(one.id)).filter(Number.isInteger);
	const level = Math.max(...oldest);
	return {
		question: 1,
		show: "awards",
		who: oldest.length ? { all: [{ field: "year_level", in: [level] }] } : {},
		what: [awardIn(award, null)],
		split: [{ field: catalogue.schools.length > 1 ? "school" : "class" }],
	};
}

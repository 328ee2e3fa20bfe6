import type { Catalogue, Measure, Question, Schemas } from "../../api/client";
import type { What } from "./question";

export type AwardOption = NonNullable<Catalogue["awards"]>[number];
type Derived = Schemas["Derived"];
export type Counting = NonNullable<Derived["counting"]>;
export const COUNTING: readonly Counting[] = ["banked and estimated", "banked"];

/** An award that is asked about, whether as it is or as the share that has met it. */
export function awardOf(what: What | undefined): Derived | undefined {
	const inner = what && "statistic" in what ? what.measure : what;
	return inner && "derive" in inner && inner.derive === "award" ? inner : undefined;
}

/** The first award that a question asks about. */
export function firstAward(question: Question): Derived | undefined {
	return question.what.map(awardOf).find(Boolean);
}

/** An award in a school year as a measure. */
export function awardIn(option: AwardOption, counting: Counting | null | undefined): Derived {
	const of: Measure = { assessment: option.assessment_id, sitting: option.sitting_id };
	return {
		derive: "award",
		of,
		rule: option.name,
		...(counting === "banked" ? { counting } : {}),
	};
}

/** The question with other records counted. */
export function counting(question: Question, records: Counting): Question {
	const counted = (award: Derived): Derived => ({
		...award,
		counting: records === "banked" ? records : null,
	});
	return { ...question, what: question.what.map((one) => changed(one, counted)) };
}

/** Awards as a lens asks for them: in words where it counts them, else the share that has met. */
export function awardsFor(question: Question, inWords: boolean): Question {
	return {
		...question,
		what: question.what.map((one) => {
			const award = awardOf(one);
			if (!award) return one;
			return inWords ? award : { measure: award, statistic: "share" };
		}),
	};
}

function changed(what: What, to: (award: Derived) => Derived): What {
	const award = awardOf(what);
	if (!award) return what;
	return "statistic" in what ? { ...what, measure: to(award) } : to(award);
}

/** Whether two name the same award of the same year. */
export function sameAward(award: Derived | undefined, option: AwardOption): boolean {
	if (!award || award.rule !== option.name || !("assessment" in award.of)) return false;
	const sitting = award.of.sitting ?? "latest";
	return sitting === option.sitting_id || sitting === option.school_year;
}

import type { Catalogue, Condition, Measure, Open, Question, Schemas } from "../../api/client";
import { awardsFor } from "./awards";

export type Id = string | number | null;
export type What = Question["what"][number];
/** One measure that says where students started. */
export type Prior = Exclude<NonNullable<Schemas["PriorSpec"]["priors"]>, string>[number];
export type Sitting = Catalogue["measures"][number];
export type Order = { by: string; dir: "asc" | "desc" };
export type Show = NonNullable<Question["show"]>;

/** The first question that the kept data can answer: the newest measure, by school. */
export function firstQuestion(catalogue: Catalogue): Question | undefined {
	const newest = catalogue.measures.filter((item) => item.n > 0);
	// A test that comes back says more than the newest quiz.
	const measure =
		newest.find((item) => item.has_prior && item.has_earlier) ??
		newest.find((item) => item.has_prior) ??
		newest[0];
	if (!measure) return undefined;
	return {
		question: 1,
		what: [measureOf(measure)],
		split: [catalogue.schools.length > 1 ? { field: "school" } : { field: "class" }],
		against: measure.has_prior && measure.has_figures ? { prior: {} } : null,
		...(measure.has_figures ? {} : { show: "levels" }),
	};
}

/** A sitting as a measure; without a score the lens chooses it. */
export function measureOf(measure: Sitting, more: Partial<Measure> = {}): Measure {
	return {
		assessment: measure.assessment_id,
		subject: measure.subject_id,
		sitting: measure.sitting_id,
		...more,
	};
}

/** The measure behind an entry of “what”; an empty one where there is none. */
export function plainOf(what: What | Prior | undefined): Partial<Measure> {
	let now: What | Prior | undefined = what;
	while (now && !("assessment" in now))
		now = "of" in now ? now.of : "first_of" in now ? now.first_of[0] : now.measure;
	return now ?? {};
}

/** The part that a measure names with its kind; a part called by a name alone has none. */
export function partOf(measure: Partial<Measure>): Schemas["Part"] | undefined {
	return typeof measure.part === "object" ? (measure.part ?? undefined) : undefined;
}

/** The kept sitting that a question looks at first. */
export function sittingOf(question: Question, catalogue: Catalogue): Sitting | undefined {
	const plain = plainOf(question.what[0]);
	// A question may be written with the district's names or with ids.
	const says = (said: unknown, ...names: unknown[]) => names.includes(said ?? null);
	const same = catalogue.measures.filter((item) =>
		says(plain.assessment, item.assessment_id, item.assessment),
	);
	const about = (item: Sitting) =>
		says(plain.subject, item.subject_id ?? null, item.subject ?? null);
	const latest = plain.sitting === undefined || plain.sitting === "latest";
	return (
		same.find(
			(item) =>
				item.sitting_id === plain.sitting || (item.sitting === plain.sitting && about(item)),
		) ??
		(latest ? same.find(about) : undefined) ??
		same.find((item) => latest || item.sitting === plain.sitting)
	);
}

export function conditions(question: Question): Condition[] {
	return question.who?.all ?? [];
}

export function withConditions(question: Question, all: Condition[]): Question {
	return { ...question, who: { ...question.who, all } };
}

/** Conditions on places are left out: the same students in every school. */
export function everywhere(question: Question): Condition[] {
	return conditions(question).filter(
		(one) => !("field" in one && ["school", "class", "teacher", "course"].includes(one.field)),
	);
}

/** The question as of a day: of its sitting, or today. */
export function asOf(question: Question, day: "sitting" | "today"): Question {
	return { ...question, who: { as_of: day, all: conditions(question) } };
}

/** The question without the part that a chip stands for. */
export function without(question: Question, path: string): Question {
	if (path === "who.as_of") return asOf(question, "sitting");
	const at = Number(path.split(".").pop());
	return withConditions(
		question,
		conditions(question).filter((_, index) => index !== at),
	);
}

/** A condition with an alternative: either holds. */
export function either(question: Question, at: number, other: Condition): Question {
	const all = conditions(question).map((one, index) => {
		if (index !== at) return one;
		const before = "any" in one ? one.any : [one];
		return { any: [...before, other] };
	});
	return withConditions(question, all);
}

/** A condition turned into its opposite, and back. */
export function turned(question: Question, at: number): Question {
	const all = conditions(question).map((one, index) => {
		if (index !== at) return one;
		return "not" in one ? one.not : { not: one };
	});
	return withConditions(question, all);
}

/** The question with the mark that is opened: the server makes the list of the two. */
export function opened(question: Question, mark: Open, order?: Order): Question {
	return {
		...question,
		open: { ...mark, sort: order ? [order] : (mark.sort ?? []), page: { size: 500, after: 0 } },
	};
}

/** The split strip of a question: everything that one could split its first measure by. */
export function stripOf(question: Question, first: What | undefined): Question {
	const { question: format, who, against, cohort, version } = question;
	const what = first ? [first] : question.what.slice(0, 1);
	return { question: format, who, what, against, cohort, version, show: "strip" };
}

/** Measures that are words from the lowest up, so that Levels counts them. */
export const IN_WORDS = ["status", "convert"];

/** The question about other measures; what they cannot be shown or held against by is left behind. */
export function withWhat(question: Question, what: What[], sitting: Sitting | undefined): Question {
	const grades = sitting?.has_figures === false;
	const usual = !question.against || !("prior" in question.against);
	const keep = !grades && (sitting?.has_prior || usual);
	const first = what[0];
	const worked = first !== undefined && ("derive" in first || "statistic" in first);
	const share = first !== undefined && "statistic" in first;
	const words = first !== undefined && "derive" in first && IN_WORDS.includes(first.derive);
	const plain = (worked && !share && !words) || (!words && sitting?.steps.length === 0);
	const levels = question.show === "levels" && plain;
	const single = share && ["spread", "start_to_now"].includes(question.show ?? "");
	const half = plainOf(first).grain === "half";
	return {
		...question,
		what,
		against: keep && !worked ? question.against : null,
		show:
			words || ((half || grades) && !share) ? "levels" : levels || single ? "spans" : question.show,
		sort: [],
	};
}

/** The same question in another lens; what that lens does not take is left behind. */
export function inLens(question: Question, show: Show, catalogue: Catalogue): Question {
	const lens = catalogue.shows.find((one) => one.show === show);
	const takes = (key: string) => lens?.takes.includes(key) ?? false;
	const { options: _, reference, ...rest } = question;
	const back = question.show === "make_up" && show !== "make_up";
	const pins = reference?.filter((pin) => lens?.pins.includes(pin));
	return {
		...awardsFor(rest, show === "awards"),
		show,
		sort: [],
		over: takes("over") ? question.over : "sitting",
		focus: back || !takes("focus") ? null : question.focus,
		...(pins && takes("reference") ? { reference: pins } : {}),
	};
}

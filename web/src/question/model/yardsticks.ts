import type { Catalogue, Condition, Question, Schemas } from "../../api/client";
import { everywhere, measureOf, plainOf, type Sitting } from "./question";

export type Against = Question["against"];

export type PriorSpec = Schemas["PriorSpec"];

/** How the expected outcome is fitted, if the question is held against where they started. */
export function priorOf(question: Question): PriorSpec | null {
	const against = question.against;
	return against && "prior" in against ? against.prior : null;
}

/** The yardstick “where they started”; what is usual needs no saying. */
export function againstStart(spec: PriorSpec): Against {
	const {
		expect = "linear",
		model = "simple",
		priors = "declared",
		covariates = [],
		...rest
	} = spec;
	return {
		prior: {
			...rest,
			...(covariates.length ? { covariates } : {}),
			...(expect === "linear" ? {} : { expect }),
			...(model === "simple" ? {} : { model }),
			...(priors === "declared" || priors.length === 0 ? {} : { priors }),
		},
	};
}

/** The sitting before, of the same students. */
export function againstEarlier(back = 1): Against {
	const measure = { assessment: "same", subject: "same", sitting: { back } };
	return { earlier: { measure } };
}

export type Goal = "expected" | "ambitious";

/** The growth that a table names for where each was at the sitting before. */
export function againstGrowth(goal: Goal): Against {
	const from = { assessment: "same", subject: "same", sitting: { back: 1 } };
	return { growth_table: { goal, from } };
}

export function goalOf(against: Against): Goal | undefined {
	return against && "growth_table" in against ? against.growth_table.goal : undefined;
}

/** Another expectation; what it cannot serve is left behind. */
export function expectedBy(spec: PriorSpec, expect: NonNullable<PriorSpec["expect"]>): PriorSpec {
	const plain = expect === "table" || expect === "equal_scores";
	const { covariates, model, ...rest } = spec;
	return {
		...rest,
		expect,
		...(plain || !covariates?.length ? {} : { covariates }),
		...(expect === "table" || model === undefined ? {} : { model }),
	};
}

export function againstTarget(kind: string): Against {
	return { target: { kind } };
}

export function againstGroup(all: Condition[]): Against {
	return { group: { who: { all } } };
}

/** Everyone who meets the question's conditions in any school. */
export function againstEveryone(question: Question): Against {
	return againstGroup(everywhere(question));
}

export function kindOf(against: Against): string {
	return against ? (Object.keys(against)[0] ?? "nothing") : "nothing";
}

/** Earlier sittings in figures that could say where students started. */
export function startsFor(sitting: Sitting, catalogue: Catalogue): Sitting[] {
	return catalogue.measures.filter(
		(item) =>
			item.date < sitting.date &&
			item.scores.some((one) => ["scaled", "raw", "percent"].includes(one.score)),
	);
}

/** The priors with one added or taken away. */
export function toggledPrior(spec: PriorSpec, sitting: Sitting): PriorSpec {
	const made = measureOf(sitting);
	const before = Array.isArray(spec.priors) ? spec.priors : [];
	const held = before.some((one) => plainOf(one).sitting === sitting.sitting_id);
	const priors = held
		? before.filter((one) => plainOf(one).sitting !== sitting.sitting_id)
		: [...before, made];
	return { ...spec, priors: priors.length ? priors : "declared" };
}

import type { Question, Schemas } from "../../api/client";
import { figure, percent } from "../../lib/numbers";
import { measureOf, plainOf, type Sitting } from "../../question/model/question";

export type Body = Schemas["TrialBody"];
export type Near = Schemas["NearStudent"];
export type Move = Schemas["Move"];

/** A figure of the try: a share in percent, steps with two decimals. */
export function said(body: Pick<Body, "figure">, value: number | null | undefined): string {
	if (value == null) return "–";
	return body.figure === "share" ? percent(value) : figure(value, 2);
}

/** The moves with one student's changed by so much; a student who is not moved is in none. */
export function stepped(moves: readonly Move[], student: number, by: number): Move[] {
	const now = moves.find((one) => one.student === student)?.by ?? 0;
	const others = moves.filter((one) => one.student !== student);
	return now + by === 0 ? others : [...others, { student, by: now + by }];
}

/** The question with moves of its own; without any it asks for the nearest again. */
export function withMoves(question: Question, moves: Move[], sitting: Sitting): Question {
	if (!moves.length) return { ...question, plan: null };
	const { score } = plainOf(question.what[0]);
	const of = measureOf(sitting, score ? { score } : {});
	return { ...question, plan: { of, moves } };
}

/** What a try wants, as its options say it; without any it is the usual. */
export interface Options {
	figure?: "mean" | "share";
	at?: string;
	wanted?: number | "yardstick" | "everyone";
	each?: "one" | "any";
	fewest?: "students" | "steps";
}

export function optionsOf(question: Question): Options {
	return (question.options ?? {}) as Options;
}

/** Other options; moves made by hand belong to what was wanted before. */
export function wanting(question: Question, change: Options): Question {
	return { ...question, options: { ...question.options, ...change }, plan: null };
}

import type { ComponentType } from "react";
import type { Answer, Catalogue, Open, Question } from "../../api/client";
import type { Look } from "./address";
import { plainOf, type Show, type Sitting, sittingOf } from "./question";
import { groupSplits, hasOrder } from "./splits";

/** What every lens is given to draw. */
export interface LensProps {
	answer: Answer;
	question: Question;
	look: Look;
	setLook: (change: Partial<Look>) => void;
	ask: (question: Question) => void;
	open: (mark: Open) => void;
}

/** What a lens is told of a question, to say whether it can serve it. */
export interface Asked {
	question: Question;
	first: Question["what"][number] | undefined;
	sitting: Sitting | undefined;
	/** A part of a test is asked for. */
	parted: boolean;
	/** A share of students is asked for: a figure of a group. */
	share: boolean;
}

/** One way to look at an answer: one folder, one line of a registry. */
export interface Lens {
	show: Show;
	name: string;
	View: ComponentType<LensProps>;
	/** The figures behind the drawing; none where the lens is a table itself. */
	Numbers?: ComponentType<LensProps>;
	/** Rows may be pinned above it. */
	pins: boolean;
	/** What its rows are sorted by where the question does not say; none: it has no order. */
	sorted?: (question: Question) => string;
	/** Why it cannot serve a question; nothing where it can. */
	whyNot: (asked: Asked) => string | undefined;
}

/** Why a lens cannot serve a question; nothing where it can. */
export function whyNot(lens: Lens, question: Question, catalogue: Catalogue): string | undefined {
	const first = question.what[0];
	return lens.whyNot({
		question,
		first,
		sitting: sittingOf(question, catalogue),
		parted: Boolean(plainOf(first).part),
		share: first !== undefined && "statistic" in first,
	});
}

/** Why a lens of a test's questions cannot serve a question. */
export function noQuestions({ question, sitting, parted, share }: Asked): string | undefined {
	if (question.what.length > 1) return "One test is looked into at a time";
	if (parted || share) return "Asked of a whole test";
	const kept = sitting?.parts?.some((part) => part.kind === "question") ?? true;
	return kept ? undefined : "No marks by question are kept of this sitting";
}

/** Why a lens of means cannot serve a question. */
export function noMean({ sitting, share }: Asked): string | undefined {
	return !share && sitting && !sitting.has_figures
		? "Grades without points have no mean"
		: undefined;
}

/** The order of a list of means or spans in words. */
export function byMean(question: Question): string {
	if (!question.sort?.length && groupSplits(question).some(hasOrder)) return "in their own order";
	const first = question.what[0];
	const share = first !== undefined && "statistic" in first;
	return question.against
		? "sorted by span, furthest behind first"
		: `sorted by ${share ? "share" : "mean"}, lowest first`;
}

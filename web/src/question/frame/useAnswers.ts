import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { answerTo } from "../../api/answers";
import type { Question } from "../../api/client";
import { stripOf } from "../model/question";

/** The answer, and the split strip around it. `shown`: the question that the answer in view is of;
 * while the next is under way, stopped or without a connection, it is the one before. */
export function useAnswers(question: Question) {
	const found = useQuery({ ...answerTo(question), placeholderData: keepPreviousData });
	// The strip is of one measure: the first that the question came to.
	const first = found.isPlaceholderData ? undefined : found.data?.question.what[0];
	const around = useQuery({
		...answerTo(stripOf(question, first)),
		placeholderData: keepPreviousData,
		enabled: first !== undefined,
	});
	const settled = useRef(question);
	if (found.data && !found.isPlaceholderData) settled.current = question;
	const shown = found.isPlaceholderData ? settled.current : question;
	return { found, around: around.data, shown };
}

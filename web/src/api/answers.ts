import { client, type Question, unwrap } from "./client";

/** The answer of a question; `signal` takes the asking back. */
export function answerTo(question: Question) {
	return {
		queryKey: ["answer", question] as const,
		queryFn: ({ signal }: { signal: AbortSignal }) =>
			unwrap(client.POST("/api/answers", { body: question, signal })),
	};
}

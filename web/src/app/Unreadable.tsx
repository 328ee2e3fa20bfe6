import { useQuery } from "@tanstack/react-query";
import { whyRefused } from "../api/client";
import { UnreadableAddress } from "../question/model/address";
import { Trouble } from "../ui/Trouble";

/** In the place of a page that could not be shown; the router wraps what an address is told. */
export function Unreadable({ error }: { error: unknown }) {
	const told = error instanceof Error && error.cause !== undefined ? error.cause : error;
	const question = told instanceof UnreadableAddress ? told.question : undefined;
	// The server knows best what is wrong with a question.
	const why = useQuery({
		queryKey: ["refused", question],
		queryFn: () => whyRefused(question),
		enabled: question !== undefined,
	});
	return (
		<div className="p-6">
			<Trouble error={told} />
			{why.data && <p className="mt-2 text-muted">What is wrong with it: {why.data.message}</p>}
			<a href="/compare" className="btn btn-sm mt-3">
				Start from the first question
			</a>
		</div>
	);
}

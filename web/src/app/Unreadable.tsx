import { ApiError, type Open, type Question } from "../api/client";
import { Trouble } from "../ui/Trouble";

function listOfThings(value: unknown): boolean {
	return (
		Array.isArray(value) && value.every((one: unknown) => typeof one === "object" && one !== null)
	);
}

/** Enough of a question to be shown while the server says what is wrong with the rest. */
function isQuestion(value: unknown): value is Question {
	return typeof value === "object" && value !== null && "what" in value && listOfThings(value.what);
}

function isOpen(value: unknown): value is Open {
	return typeof value === "object" && value !== null;
}

function unreadable(): ApiError {
	return new ApiError(
		"address",
		"The question in this address cannot be read.",
		"Nothing was changed.",
		"The link may have been cut off on its way: ask for it again, or start from the first question.",
		0,
	);
}

/** The question of an address, which anybody may have typed or cut off. */
export function questionIn(value: unknown): Question | undefined {
	if (value === undefined || value === null) return undefined;
	if (!isQuestion(value)) throw unreadable();
	return value;
}

/** The mark of an address that stands open. */
export function openIn(value: unknown): Open | undefined {
	if (value === undefined || value === null) return undefined;
	if (!isOpen(value)) throw unreadable();
	return value;
}

/** In the place of a page that could not be shown; the router wraps what an address is told. */
export function Unreadable({ error }: { error: unknown }) {
	const told = error instanceof Error && error.cause instanceof ApiError ? error.cause : error;
	return (
		<div className="p-6">
			<Trouble error={told} />
			<a href="/compare" className="btn btn-sm mt-3">
				Start from the first question
			</a>
		</div>
	);
}

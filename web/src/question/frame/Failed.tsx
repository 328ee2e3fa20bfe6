import { Link } from "@tanstack/react-router";
import type { Question } from "../../api/client";
import { Instead, Trouble } from "../../ui/Trouble";

interface Props {
	error: unknown;
	ask: (change: Partial<Question>) => void;
	again: () => void;
}

/** A question that has no answer: why, and where to go from there. */
export function Failed({ error, ask, again }: Props) {
	return (
		<div className="p-6">
			<Trouble error={error} />
			<div className="mt-3 flex gap-2">
				<Instead error={error} ask={ask} />
				<button type="button" className="btn btn-sm" onClick={() => history.back()}>
					Back to the last question
				</button>
				<Link to="." search={{}} className="btn btn-sm">
					Start from the first question
				</Link>
				<button type="button" className="btn btn-sm" onClick={again}>
					Ask again
				</button>
			</div>
		</div>
	);
}

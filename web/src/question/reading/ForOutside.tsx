import { useState } from "react";
import { downloadForOutside, type Question } from "../../api/client";

interface Props {
	question: Question;
	fail: (error: unknown) => void;
}

/** The numbers as a file that may leave the house. While it is thought about what to hide, the
 * same button takes it back. */
export function ForOutside({ question, fail }: Props) {
	const [under, setUnder] = useState<AbortController>();
	function write(): void {
		const stop = new AbortController();
		setUnder(stop);
		downloadForOutside(question, stop.signal)
			.then(() => fail(undefined))
			.catch((error) => !stop.signal.aborted && fail(error))
			.finally(() => setUnder(undefined));
	}
	return (
		<button
			type="button"
			className="btn btn-outline btn-sm px-2"
			title="With small numbers hidden, so that none can be worked out"
			onClick={() => (under ? under.abort() : write())}
		>
			{under ? "Hiding… stop" : "For outside"}
		</button>
	);
}

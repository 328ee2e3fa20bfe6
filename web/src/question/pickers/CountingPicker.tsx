import { Choice } from "../../ui/Choice";
import { COUNTING, type Counting, counting, firstAward } from "../model/awards";
import type { PickerProps } from "./picker";

const ASIDE: Record<Counting, string> = {
	"banked and estimated": "met, on course, not yet",
	banked: "met or not",
};

/** Which credit records count. */
export function CountingPicker({ question, ask, close }: PickerProps) {
	const now = firstAward(question)?.counting ?? "banked and estimated";
	return (
		<>
			{COUNTING.map((one) => (
				<Choice
					key={one}
					chosen={one === now}
					words={one}
					aside={ASIDE[one]}
					pick={() => {
						ask(counting(question, one));
						close();
					}}
				/>
			))}
		</>
	);
}

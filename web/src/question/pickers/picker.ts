import type { Catalogue, Question } from "../../api/client";

/** What every picker is given. */
export interface PickerProps {
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
	close: () => void;
}

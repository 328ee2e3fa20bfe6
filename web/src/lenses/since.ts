import type { Asked } from "../question/model/lens";

/** Why a lens of how far they came cannot serve a question. */
export function sinceEarlier({ question, first, parted }: Asked, name: string): string | undefined {
	if (question.what.length > 1) return `${name} is looked at for one measure at a time`;
	if (first && ("derive" in first || "statistic" in first))
		return "A figure that is worked out did not come from an earlier one";
	if (parted) return "Asked of a whole test";
	if (!question.against || !("earlier" in question.against))
		return "Measured against an earlier sitting";
	return undefined;
}

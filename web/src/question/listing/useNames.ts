import { useQuery } from "@tanstack/react-query";
import { answerTo } from "../../api/answers";
import type { Open, Question } from "../../api/client";

export interface Called {
	name: string;
	/** What the column beside the name says: a class, a school. */
	place: string;
}

/** Names of students whom a lens shows by their ids. They are asked for as a list, so that looking
 * at them is noted. */
export function useNames(
	ids: readonly number[],
	question: Question,
	what: Open["what"],
	place: "school" | "class",
): Map<number, Called> {
	const students = [...ids].sort((a, b) => a - b);
	const list = useQuery({
		...answerTo({
			...question,
			plan: null,
			focus: null,
			options: {},
			open: {
				...(what ? { what } : {}),
				students,
				columns: [{ field: place }],
				page: { size: 200, after: 0 },
			},
		}),
		enabled: students.length > 0,
	});
	const found = list.data?.body;
	if (found?.show !== "students") return new Map();
	const values = (key: string) => found.columns.find((one) => one.key === key)?.values ?? [];
	const [names, places] = [values("name"), values(place)];
	return new Map(
		found.student.map((id, at) => [
			id,
			{ name: String(names[at] ?? ""), place: String(places[at] ?? "") },
		]),
	);
}

import type { Question, Schemas } from "../../api/client";
import type { Asked } from "./address";

export type Found = Schemas["Found"];

/** Where a thing that was found leads: a student's page, a list, or the same question about it. */
export function foundLink(item: Found, before?: Question) {
	if (item.kind === "student")
		return { to: "/people/student/$id", params: { id: String(item.id) }, search: {} } as const;
	if (item.kind === "list")
		return { to: "/people", params: {}, search: { list: Number(item.id) } } as const;
	return { to: "/compare", params: {}, search: searchFor(item, before) } as const;
}

/** The question that a thing found makes of the one before. */
export function searchFor(item: Found, before: Question | undefined): Asked {
	if (item.question) return { q: item.question };
	if (item.what) {
		return { q: { ...before, what: [item.what], against: null, show: "spans" } };
	}
	if (!before || !item.who) return { q: before };
	const split: Question["split"] = item.kind === "school" ? [{ field: "class" }] : before.split;
	return { q: { ...before, who: { ...before.who, all: [item.who] }, split } };
}

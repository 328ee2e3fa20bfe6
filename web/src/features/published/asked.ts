/** What is looked at of the published figures; the address holds it. */
export interface AskedPublished {
	test?: string;
	level?: number;
	by?: number;
}

export function askedPublished(search: Record<string, unknown>): AskedPublished {
	const level = Number(search.level);
	const by = Number(search.by);
	return {
		...(typeof search.test === "string" ? { test: search.test } : {}),
		...(search.level !== undefined && Number.isInteger(level) ? { level } : {}),
		...(Number.isInteger(by) && by > 0 ? { by } : {}),
	};
}

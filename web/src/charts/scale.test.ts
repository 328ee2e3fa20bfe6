import { expect, test } from "vitest";
import { decimalsOf, linear } from "./scale";

test.each([
	[0.002, 0.01],
	[0, 0.2],
	[0, 0.7],
	[0, 3],
	[-40, 900],
])("the marks from %s to %s read differently", (low, high) => {
	const marks = linear([low, high], [0, 100], 6).marks(6);
	const decimals = decimalsOf((marks[1]?.value ?? 1) - (marks[0]?.value ?? 0));
	expect(new Set(marks.map((mark) => mark.value.toFixed(decimals))).size).toBe(marks.length);
});

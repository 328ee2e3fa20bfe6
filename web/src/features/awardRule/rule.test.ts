import { expect, test } from "vitest";
import { asFile, asRows, awardsIn, emptyRow, outer, withoutRow, withRow, wrongIn } from "./rule";

const total = { ...emptyRow("Total"), credits: 60 };
const written = { award: " Tide ", school_year: "2025-26", year_level: null, rows: [total] };

test("rows say their award and school year, and are found again", () => {
	const rows = asRows(written);
	expect(rows[0]).toMatchObject({ award: "Tide", school_year: "2025-26", credits: 60 });
	expect(awardsIn([...rows, { ...total, award: "Ebb" }]).map((one) => one.award)).toEqual([
		"Tide",
		"Ebb",
	]);
});

test("what stands within a condition stays there when that is renamed", () => {
	const either = { ...emptyRow("Either"), joins: "any" };
	const inner = { ...emptyRow("Maths"), within: "Either", credits: 10 };
	const both = { ...written, rows: [either, inner] };
	expect(outer(both)).toEqual(["Either"]);
	expect(withRow(both, 0, { condition: "One of" }).rows[1]?.within).toBe("One of");
	expect(withoutRow(both, 0).rows).toEqual([inner]);
	expect(outer({ ...written, rows: [{ ...total, subjects: 3 }] })).toEqual(["Total"]);
});

test("it says what is wrong before it can be looked at", () => {
	const read = { rules: [], troubles: [], tried: [], counts: [] };
	expect(wrongIn(null, undefined)).toContain("Begin");
	expect(wrongIn({ ...written, award: " " }, read)).toContain("name");
	expect(wrongIn({ ...written, rows: [] }, read)).toContain("nothing");
	const wrong = { ...read, troubles: [{ row: 0, why: "asks for no credits" }] };
	expect(wrongIn(written, wrong)).toBe("“Total” asks for no credits.");
	expect(wrongIn(written, read)).toBeUndefined();
});

test("every row stands in the file, quoted", async () => {
	const rows = [{ ...total, condition: 'The "total"', standards: "E1|E2" }];
	const lines = (await asFile({ ...written, rows }).text()).trim().split("\r\n");
	expect(lines).toHaveLength(2);
	expect(lines[0]).toContain('"Award","Grade","Condition"');
	expect(lines[1]).toContain('"Tide","","The ""total"""');
	expect(lines[1]).toContain('"E1|E2","2025-26"');
});

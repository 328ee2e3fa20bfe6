import { afterEach, expect, test } from "vitest";
import { figure, signed } from "./numbers";
import { day, levelName, PLAIN, someYearLevel, speak, yearLevels } from "./words";

afterEach(() => speak(PLAIN));

test.each([
	["1,234.5", "−1,234.5", "+0.5"],
	["1.234,5", "−1.234,5", "+0,5"],
	["1 234,5", "−1\u202f234,5", "+0,5"],
	["1 234.5", "−1\u202f234.5", "+0.5"],
	["1234.5", "−1234.5", "+0.5"],
	["1234,5", "−1234,5", "+0,5"],
])("numbers as in %s", (numbers, large, small) => {
	speak({ ...PLAIN, numbers });
	expect(figure(-1234.5)).toBe(large);
	expect(signed(0.5)).toBe(small);
});

test.each([
	["2026-03-02", "2026-11-09"],
	["2 March 2026", "9 November 2026"],
	["02/03/2026", "09/11/2026"],
	["03/02/2026", "11/09/2026"],
	["02.03.2026", "09.11.2026"],
])("dates as in %s", (dates, text) => {
	speak({ ...PLAIN, dates });
	expect(day("2026-11-09T23:10:00Z")).toBe(text);
});

test("year levels are called as the district calls them", () => {
	expect([levelName(8), yearLevels(), someYearLevel()]).toEqual([
		"Year 8",
		"year levels",
		"a year level",
	]);
	speak({ ...PLAIN, year_level: "age class", level_before: "S", level_names: { 0: "Nursery" } });
	expect([levelName(0), levelName(8), yearLevels(), someYearLevel()]).toEqual([
		"Nursery",
		"S8",
		"age classes",
		"an age class",
	]);
});

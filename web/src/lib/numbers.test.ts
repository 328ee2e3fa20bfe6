import { expect, test } from "vitest";
import { count, figure, range, signed } from "./numbers";
import { colour, MEANING, SYMBOL, tone } from "./verdicts";

test.each([
	[-4.06, 1, "−4.1"],
	[-0.04, 1, "0.0"],
	[1234.5, 0, "1,235"],
	[0, 1, "0.0"],
	[null, 1, ""],
	[undefined, 1, ""],
])("figure(%s, %s) reads %s", (value, decimals, text) => {
	expect(figure(value, decimals)).toBe(text);
});

test("signs are true ones, and nothing has none", () => {
	expect(signed(3.4)).toBe("+3.4");
	expect(signed(-3.4)).toBe("−3.4");
	expect(signed(-0.01)).toBe("+0.0");
	expect(signed(null)).toBe("");
});

test("counts agree with their noun; ranges need both ends", () => {
	expect(count(1, "student")).toBe("1 student");
	expect(count(1164, "student")).toBe("1,164 students");
	expect(range(-6.1, -2.1)).toBe("−6.1 to −2.1");
	expect(range(null, 2)).toBe("");
});

test("every verdict has a symbol of its own, and colour is never alone", () => {
	const shown = ["ahead", "behind", "alike", "unclear", "few"];
	expect(new Set(shown.map((verdict) => SYMBOL[verdict])).size).toBe(5);
	for (const verdict of shown) expect(MEANING[verdict]).not.toBe("");
	expect(colour("ahead")).not.toBe(colour("behind"));
	expect(tone("alike")).toBe(tone("unclear"));
});

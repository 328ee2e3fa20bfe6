import { describe, expect, it } from "vitest";
import { changedRows, type Grid, laidOver, pasted, trouble } from "./cells";

const GRADES = {
	steps: ["U", "B", "A", "A*"],
	synonyms: { "A star": "A*" },
	lowest: null,
	highest: null,
	codes: ["absent"],
};
const PERCENT = { steps: [], synonyms: {}, lowest: 0, highest: 100, codes: ["absent", "x"] };

describe("a typed cell", () => {
	it("is a step of the scale, however it is spaced, or a code", () => {
		for (const text of ["A*", "a *", "A star", "b", "absent", ""])
			expect(trouble(text, GRADES)).toBeUndefined();
		expect(trouble("C", GRADES)).toContain("not on the scale");
	});

	it("is a figure within its bounds", () => {
		for (const text of ["0", "99,5", " 100 ", "x"]) expect(trouble(text, PERCENT)).toBeUndefined();
		expect(trouble("101", PERCENT)).toBe("above 100");
		expect(trouble("-1", PERCENT)).toBe("below 0");
		expect(trouble("about 5", PERCENT)).toContain("neither a figure");
	});
});

describe("pasting", () => {
	it("lays a block over the cells from where it is pasted, and leaves out what does not fit", () => {
		const block = pasted("1\t2\r\n3\t4\r\n5\t6\r\n");
		expect(block).toEqual([
			["1", "2"],
			["3", "4"],
			["5", "6"],
		]);
		const before = [
			["a", "b"],
			["c", "d"],
			["e", "f"],
		];
		expect(laidOver(before, block, 1, 1)).toEqual([
			["a", "b"],
			["c", "1"],
			["e", "3"],
		]);
	});
});

it("only changed cells are said", () => {
	const grid = {
		title: "8A",
		headers: ["x", "y"],
		allowed: [PERCENT, PERCENT],
		rows: [
			{ number: "1", name: "Ann", cells: ["10", ""] },
			{ number: "2", name: "Ben", cells: ["20", "5"] },
		],
	} as Grid;
	const cells = [
		["10", " "],
		["20", "6"],
	];
	expect(changedRows(grid, cells)).toEqual([{ number: "2", name: "Ben", cells: ["", "6"] }]);
});

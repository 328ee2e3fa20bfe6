import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { linesSaid } from "./TopLines";

const TOP: Schemas["TopRow"][] = [
	{ line: 1, role: "left_out", cells: ["Paper 1"] },
	{ line: 3, role: "names", cells: ["No", "Q1"] },
	{ line: 4, role: "row", cells: ["", "2"] },
	{ line: 5, role: "row", cells: ["001", "1"] },
];

test("what was guessed of the names stays said beside what is pointed at", () => {
	expect(linesSaid(TOP, 4, "maximum")).toEqual({ 3: "names", 4: "maximum" });
	expect(linesSaid(TOP, 1, "names")).toEqual({ 1: "names", 3: "names" });
});

test("a line that is no names any more is said to be a row", () => {
	expect(linesSaid(TOP, 3, "row")).toEqual({ 3: "row" });
});

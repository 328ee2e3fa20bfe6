import { describe, expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { levelColour, levelsLayout } from "./layout";

const row = {
	key: "a",
	label: "A",
	measure: 0,
	n: 10,
	missing: 0,
	counts: [2, 3, 5],
	share: [0.2, 0.3, 0.5],
	at_or_above: [1, 0.8, 0.5],
	opens: null,
	pass_count: null,
	pass_share: null,
	pass_low: null,
	pass_high: null,
	overlap: false,
	pinned: false,
	undefined: null,
} satisfies Schemas["LevelsRow"];

describe("levels", () => {
	test("meet at the pass line, whatever the row", () => {
		const other = { ...row, key: "b", share: [0.6, 0.3, 0.1] };
		const layout = levelsLayout([row, other], 2, 800);
		for (const { bars } of layout.rows) {
			const below = bars[1];
			const above = bars[2];
			expect((below?.x ?? 0) + (below?.width ?? 0)).toBeCloseTo(layout.line, 6);
			expect(above?.x).toBeCloseTo(layout.line, 6);
		}
	});
	test("are as wide as their shares", () => {
		const { bars } = levelsLayout([row], 1, 800).rows[0] ?? { bars: [] };
		const [first, second, third] = bars.map((bar) => bar.width);
		expect((third ?? 0) / (first ?? 1)).toBeCloseTo(2.5, 6);
		expect((second ?? 0) / (first ?? 1)).toBeCloseTo(1.5, 6);
		expect(bars.map((bar) => bar.passes)).toEqual([false, true, true]);
	});
	test("without a pass line all lie on one side", () => {
		const layout = levelsLayout([row], null, 800);
		expect(layout.rows[0]?.bars[0]?.x).toBeCloseTo(layout.line, 6);
	});
	test("have a colour each, told apart on both sides of the line", () => {
		const colours = [0, 1, 2, 3, 4].map((step) => levelColour(step, 5, 2));
		expect(new Set(colours).size).toBe(5);
		expect(colours[0]).toContain("behind");
		expect(colours[4]).toContain("ahead");
	});
});

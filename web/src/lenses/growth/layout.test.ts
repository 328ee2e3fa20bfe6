import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { FIGURE, growthColumns, MET, metWidths, NAME } from "./layout";

const mark = (n: number) => ({ n, missing: 0 });
const row: Schemas["GrowthRow"] = {
	...mark(40),
	key: "school-1",
	label: "Netherby",
	met: [
		{ ...mark(20), goal: "expected", of: 40, share: 0.5 },
		{ ...mark(8), goal: "ambitious", of: 40, share: 0.2 },
	],
};

test("a column stands only where rows have something for it, and the axis takes the rest", () => {
	const bare = growthColumns([row], 0, 600);
	expect([bare.met, bare.fell]).toEqual([false, false]);
	const full = growthColumns([{ ...row, fell: { ...mark(3), of: 40, beyond: mark(0) } }], 2, 600);
	expect([full.met, full.fell]).toEqual([true, true]);
	expect(full.axis).toBeLessThan(bare.axis);
	expect(bare.template).toBe(`${NAME}px 62px ${bare.axis}px ${FIGURE}px`);
	expect(full.template).toContain(`${MET}px`);
});

test("fifty lies in the middle of the axis, which never vanishes", () => {
	const narrow = growthColumns([row], 2, 200);
	expect(narrow.axis).toBe(140);
	expect(narrow.x(50)).toBeCloseTo(70);
});

test("ambitious growth lies inside expected growth", () => {
	expect(metWidths(row, 100)).toEqual({ expected: 50, ambitious: 20 });
	expect(metWidths({ ...row, met: [] }, 100)).toEqual({ expected: 0, ambitious: 0 });
});

import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { chancesLayout } from "./layout";

const row = (key: string, share: number[]): Schemas["ChancesRow"] => ({
	n: 3,
	missing: 0,
	key,
	label: key,
	cohorts: 4,
	share,
});

test("the highest level stands on top, and shares meet at the line", () => {
	const { rows, line } = chancesLayout([row("low", [0.6, 0.4]), row("high", [0.2, 0.8])], 1, 140);
	expect(rows.map((one) => one.row.key)).toEqual(["high", "low"]);
	expect(line).toBeCloseTo(60);
	for (const { parts } of rows) {
		const [below, above] = parts;
		if (!below || !above) throw new Error("two outcomes");
		expect(below.x + below.width).toBeCloseTo(line);
		expect(above.x).toBeCloseTo(line);
	}
});

test("a level without chances has no parts", () => {
	const { rows } = chancesLayout([{ ...row("few", []), undefined: "too_few" }], 1, 140);
	expect(rows[0]?.parts).toEqual([]);
});

import { expect, test } from "vitest";
import { apart, type Glance, overviewLayout } from "./overview";

test("places stay in order, apart, and inside", () => {
	const places = apart([10, 11, 12, 99, 100], 10, 100);
	expect(places).toHaveLength(5);
	places.slice(1).forEach((y, at) => {
		expect(y - (places[at] ?? 0)).toBeGreaterThanOrEqual(10);
	});
	expect(Math.max(...places)).toBeLessThanOrEqual(95);
	expect(apart([20, 60], 10, 100)).toEqual([20, 60]);
	expect(apart([], 10, 100)).toEqual([]);
});

const rows = (n: number, told: (at: number) => boolean): Glance[] =>
	Array.from({ length: n }, (_, at) => ({
		key: `${at}`,
		label: `Row ${at}`,
		value: at - n / 2,
		verdict: told(at) ? (at < n / 2 ? "behind" : "ahead") : "alike",
	}));

test("every row is a mark, and the told-apart ones have names in their order", () => {
	const layout = overviewLayout(
		rows(400, (at) => at % 100 === 0),
		400,
	);
	expect(layout.paths.map((one) => one.d.match(/M/g)?.length ?? 0).reduce((a, b) => a + b)).toBe(
		400,
	);
	expect(layout.names.map((one) => one.glance.key)).toEqual(["0", "100", "200", "300"]);
	expect(layout.more).toBe(0);
	expect(layout.zero).not.toBeNull();
});

test("where there is no room for all names, those at the ends have one, and how many more is said", () => {
	const layout = overviewLayout(
		rows(400, () => true),
		150,
	);
	expect(layout.names).toHaveLength(10);
	expect(layout.more).toBe(390);
	expect(layout.names[0]?.glance.key).toBe("0");
	expect(layout.names.at(-1)?.glance.key).toBe("399");
});

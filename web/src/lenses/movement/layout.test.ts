import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { HEIGHT, movementLayout } from "./layout";

const mark = (n: number) => ({ n, missing: 0 });
const level = (name: string, n: number) => ({ ...mark(n), name, passes: name === "high" });
const body: Schemas["MovementBody"] = {
	show: "movement",
	dimension: "school",
	before: "May",
	now: "June",
	then_in: [level("low", 6), level("high", 4)],
	now_in: [level("low", 5), level("high", 5)],
	flows: [
		{ ...mark(4), before: 0, now: 0, credit: 0 },
		{ ...mark(2), before: 0, now: 1, credit: 1 },
		{ ...mark(1), before: 1, now: 0, credit: 0 },
		{ ...mark(3), before: 1, now: 1, credit: 1 },
	],
	rule: "a rise",
	rules: [],
	up: mark(2),
	same: mark(7),
	down: mark(1),
	rows: [],
	reference: [],
};

test("blocks are as tall as they hold students, the highest level on top, and fill the height", () => {
	const { then, now } = movementLayout(body, 0, 100);
	expect(then.map((one) => [one.name, one.n])).toEqual([
		["high", 4],
		["low", 6],
	]);
	const [first, last] = [now[0], now[1]];
	if (!first || !last) throw new Error("two blocks");
	expect(last.y + last.height).toBeCloseTo(HEIGHT);
	expect(first.height / last.height).toBeCloseTo(1);
});

test("every ribbon is as thick as its students, and those of a block do not overlap", () => {
	const { ribbons, then } = movementLayout(body, 0, 100);
	expect(ribbons.map((one) => one.way).sort()).toEqual(["down", "same", "same", "up"]);
	const scale = (then[0]?.height ?? 0) / 4;
	const starts = (before: number) =>
		ribbons
			.filter((one) => one.flow.before === before)
			.map((one) => [Number(/M\S+ ([\d.]+)C/.exec(one.path)?.[1]), one.flow.n * scale] as const)
			.sort((a, b) => a[0] - b[0]);
	for (const before of [0, 1]) {
		const [a, b] = starts(before);
		if (!a || !b) throw new Error("two ribbons");
		expect(a[0] + a[1]).toBeCloseTo(b[0], 1);
	}
});

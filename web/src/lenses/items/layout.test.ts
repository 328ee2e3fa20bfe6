import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { DRAWN, inFront, itemsLayout, NAME_WIDTH, ordered } from "./layout";

function item(place: number, spans: number[]): Schemas["Item"] {
	return {
		key: `question:Q${place}`,
		label: `Q${place}`,
		place,
		questions: 1,
		maximum: 1,
		about: {},
		shares: spans.map((span) => ({
			n: 20,
			missing: 0,
			omitted: 0,
			not_reached: 0,
			share: 0.5 + span,
			nation: 0.55,
		})),
		beside: spans.map((span) => ({
			rest: 0.5,
			rest_n: 90,
			span,
			low: span - 0.1,
			high: span + 0.1,
			p: 0.5,
			verdict: "unclear",
		})),
	};
}

function body(rows: Schemas["Item"][], groups: number): Schemas["ItemsBody"] {
	return {
		show: "items",
		form: "A",
		by: "question",
		kinds: ["strand"],
		order: "difference",
		dimension: "class",
		against: "the rest",
		groups: Array.from({ length: groups }, (_, at) => ({
			key: `class:${at}`,
			label: `8${at}`,
			n: 20,
			missing: 0,
		})),
		rows,
		exact: { questions: rows.length, n: 100, missing: 0, reason: "" },
	};
}

test("the group in front decides the order, and the first is in front", () => {
	const made = body([item(1, [-0.2, 0.3]), item(2, [0.1, -0.3])], 2);
	expect(inFront(made, undefined)).toBe(0);
	expect(inFront(made, "class:9")).toBe(0);
	expect(inFront(made, "class:1")).toBe(1);
	expect(ordered(made, 0).map((one) => one.label)).toEqual(["Q1", "Q2"]);
	expect(ordered(made, 1).map((one) => one.label)).toEqual(["Q2", "Q1"]);
	expect(ordered({ ...made, order: "paper" }, 1).map((one) => one.label)).toEqual(["Q1", "Q2"]);
});

test("shares stand left of the distances, no distance at the origin", () => {
	const layout = itemsLayout(body([item(1, [-0.2, 0.3]), item(2, [0, 0.1])], 2), 0, 760);
	const [first, second] = layout.rows;
	expect(first?.marks.map((mark) => mark.group)).toEqual([0, 1]);
	expect(layout.ticks[0]?.at).toBe(NAME_WIDTH);
	expect(Math.max(...layout.ticks.map((tick) => tick.at))).toBeLessThan(first?.low ?? 0);
	expect(second?.apart).toBeCloseTo(layout.origin ?? 0);
	expect(first?.apart ?? 0).toBeLessThan(layout.origin ?? 0);
	expect(first?.rest).toBeCloseTo(((layout.ticks[0]?.at ?? 0) + (layout.ticks[4]?.at ?? 0)) / 2);
	expect(layout.right).toBeLessThan(760);
});

test("of many groups a few are drawn, the one in front always", () => {
	const layout = itemsLayout(body([item(1, Array(11).fill(0))], 11), 9, 760);
	expect(layout.drawn).toHaveLength(DRAWN);
	expect(layout.drawn[0]).toBe(9);
});

test("held against nobody there are shares alone", () => {
	const made = { ...body([item(1, [0.1])], 1), against: null };
	const layout = itemsLayout(made, 0, 760);
	expect(layout.origin).toBeNull();
});

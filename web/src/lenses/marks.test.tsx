// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, expect, test, vi } from "vitest";
import type { Answer, Open, Schemas } from "../api/client";
import { base } from "../question/model/sample";
import { noLayout } from "../testing/noLayout";
import { Levels } from "./levels/Levels";
import { OverTime } from "./over_time/OverTime";
import { Spread } from "./spread/Spread";
import { StartToNow } from "./start_to_now/StartToNow";

beforeAll(noLayout);
afterEach(cleanup);

const mark = (school: number): Open => ({ add: [{ field: "school", in: [school] }] });

function answer(body: Answer["body"]): Answer {
	return {
		engine: "",
		resolved: { version: 1, today: null, as_of: null, sittings: {} },
		scope: { text: "the whole district", opens: true },
		body,
		slots: { who: "all", what: "Mathematics", split: "school", against: "nothing" },
		method: { name: "", says: [], facts: {}, page: "methods/trust.md" },
		question: base,
		sentence: "How did all do?",
		readings: [],
		warnings: [],
		coverage: [],
		chips: [],
		measures: [],
	};
}

function shown(View: typeof Levels, body: Answer["body"], look = {}): ReturnType<typeof vi.fn> {
	const open = vi.fn();
	render(
		<View
			answer={answer(body)}
			question={base}
			look={look}
			setLook={() => {}}
			ask={() => {}}
			open={open}
		/>,
	);
	return open;
}

test("a bar opens what the server says of it, not something that is put together here", async () => {
	const row = {
		key: "a",
		label: "Tarn",
		measure: 0,
		n: 5,
		missing: 1,
		counts: [2, 3],
		bars: [
			{ n: 2, missing: 0, opens: mark(1) },
			{ n: 3, missing: 0, opens: mark(2) },
		],
		share: [0.4, 0.6],
		at_or_above: [1, 0.6],
		opens: mark(9),
	} satisfies Partial<Schemas["LevelsRow"]>;
	const open = shown(Levels, {
		show: "levels",
		dimension: "school",
		steps: [
			{ name: "low", passes: false },
			{ name: "high", passes: true },
		],
		pass_at: 1,
		drawn: false,
		rows: [row],
		reference: [],
	});
	await userEvent.click(screen.getByRole("button", { name: /^Tarn, high: 3 of 5/ }));
	expect(open.mock.calls).toEqual([[mark(2)]]);
});

test("a dot opens its own mark, by the keys too", async () => {
	const open = shown(StartToNow, {
		show: "start_to_now",
		n: 2,
		missing: 0,
		opens: mark(9),
		x_label: "before",
		y_label: "now",
		unit: "points",
		groups: [],
		correlation: null,
		dots: {
			marks: [
				{ n: 1, missing: 0, opens: mark(1) },
				{ n: 1, missing: 0, opens: mark(2) },
			],
			x: [20, 10],
			y: [1, 2],
			beyond: [],
			group: [0, 0],
			focus: [false, false],
		},
		grid: { x_edges: [10, 20], y_edges: [1, 2], counts: [[2]] },
		beyond: null,
		regions: [],
		lines: [],
	});
	screen.getByRole("slider").focus();
	// From the lowest start on: the second of the columns first.
	await userEvent.keyboard("{Enter}{ArrowRight}{Enter}");
	expect(open.mock.calls).toEqual([[mark(2)], [mark(1)]]);
});

test("of many lines a muted one is found, and its points open", async () => {
	const point = (date: string, opens: Open) => ({
		measure: 0,
		label: date,
		date,
		n: 9,
		missing: 0,
		value: 1,
		low: 0,
		high: 2,
		opens,
	});
	const series = Array.from({ length: 40 }, (_, at) => ({
		key: `${at}`,
		label: `School ${at}`,
		points: [point("2025-05-01", mark(at)), point("2026-05-01", mark(100 + at))],
	}));
	const body = { show: "over_time", dimension: "school", unit: "points", what: "mean", series };
	const open = shown(OverTime, body as Answer["body"], { row: "7" });
	expect(screen.getByText(/None of 40 moved otherwise/)).toBeTruthy();
	const points = screen.getAllByRole("button", { name: /^School \d+, 202/ });
	expect(points).toHaveLength(2);
	await userEvent.click(points[1] as HTMLElement);
	expect(open.mock.calls).toEqual([[mark(107)]]);
});

test("a box of one of many groups opens its students and says its figures", async () => {
	const curve = (at: number) => ({
		key: `${at}`,
		label: `School ${at}`,
		measure: 0,
		n: 30,
		missing: 2,
		counts: [10, 20],
		at: [],
		share: [],
		low: [],
		high: [],
		mean: 5,
		p10: 1,
		q1: 3,
		median: 5,
		q3: 7,
		p90: 9,
		opens: mark(at),
	});
	const body = {
		show: "spread",
		dimension: "school",
		unit: "points",
		edges: [0, 5, 10],
		together: [90, 180],
		cuts: [],
		curves_drawn: false,
		curves: Array.from({ length: 9 }, (_, at) => curve(at)),
	};
	const open = shown(Spread, body as Answer["body"]);
	expect(screen.queryByRole("radio", { name: "Histogram" })).toBeNull();
	const box = screen.getByRole("button", { name: /School 4.*median 5.0.*30 counted, 2 missing/ });
	await userEvent.click(box);
	expect(open.mock.calls).toEqual([[mark(4)]]);
});

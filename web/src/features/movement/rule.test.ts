import { expect, test } from "vitest";
import { catalogue } from "../../question/model/sample";
import {
	asFile,
	halved,
	inWords,
	levelled,
	next,
	rising,
	textOf,
	withCredit,
	wrongIn,
} from "./rule";

const LEVELS = ["Low", "Mid", "High"];
const rule = { name: "Ours", test: "Test", subject: "", levels: LEVELS, credit: rising(LEVELS) };

test("a rule begins as a rise, or the top held", () => {
	expect(rule.credit).toEqual([
		[0, 1, 1],
		[0, 0, 1],
		[0, 0, 1],
	]);
	expect(wrongIn(rule)).toBeUndefined();
	expect(wrongIn({ ...rule, name: " " })).toContain("name");
	expect(wrongIn(null)).toContain("levels");
});

test("a cell goes from none to a half to full and round, and is read back", () => {
	expect([next(0), next(0.5), next(1), next(0.3)]).toEqual([0.5, 1, 0, 0]);
	const held = withCredit(rule, 1, 1, 0.5);
	expect(inWords(held)[1]).toBe("Who was Mid earns full credit at High, half of it at Mid.");
	expect(inWords(withCredit(rule, 1, 1, 0.3))[1]).toContain("30% at Mid");
	expect(inWords({ ...rule, credit: rule.credit.map(() => [0, 0, 0]) })[0]).toContain("nothing");
});

test("a kept rule is started from, in whole levels or in halves", () => {
	const moves = [{ before: "low", after: "mid", credit: 0.25 }];
	const kept = textOf({ rule: "Old", test: "Test", subject: "", moves }, LEVELS);
	expect(kept.credit[0]).toEqual([0, 0.25, 0]);
	const half = [{ before: "low,lower", after: "low,upper", credit: 1 }];
	const parted = textOf({ rule: "Old", test: "Test", subject: "", moves: half }, LEVELS);
	expect(parted.levels).toEqual(halved(LEVELS));
	expect(parted.credit[0]?.[1]).toBe(1);
});

test("every move stands in the file", async () => {
	const text = await asFile({ ...rule, name: 'The "new"' }).text();
	const lines = text.trim().split("\r\n");
	expect(lines).toHaveLength(1 + 9);
	expect(lines[2]).toBe('"The ""new""","Test","","Low","Mid","1"');
});

test("tests with levels are offered once", () => {
	const offered = levelled(catalogue);
	expect(new Set(offered.map((one) => one.key)).size).toBe(offered.length);
	expect(offered.every((one) => one.levels.length > 1)).toBe(true);
});

import type { Catalogue, Schemas } from "../../api/client";

/** A rule as it is written in the editor; credit: of each level then, for each level now. */
export interface RuleText {
	name: string;
	test: string;
	subject: string;
	levels: string[];
	credit: number[][];
}

/** What a rule could be for: a test (and subject) in levels or grades. */
export interface Levelled {
	key: string;
	test: string;
	subject: string;
	levels: string[];
}

export const EARNS: readonly number[] = [0, 0.5, 1];

/** The tests that have levels; once for all subjects where these have the same ones. */
export function levelled(catalogue: Catalogue): Levelled[] {
	const found = new Map<string, Levelled>();
	for (const one of catalogue.measures) {
		if (one.steps.length < 2) continue;
		const named = { test: one.assessment, subject: "", levels: one.steps };
		const key = `${one.assessment} ${one.steps.join("|")}`;
		if (!found.has(key)) found.set(key, { key, ...named });
	}
	return [...found.values()];
}

/** Each level in two, as half-levels are called. */
export function halved(levels: readonly string[]): string[] {
	return levels.flatMap((level) => [`${level}, lower`, `${level}, upper`]);
}

/** A rise, or the top level held, earns full credit: where a rule begins. */
export function rising(levels: readonly string[]): number[][] {
	const top = levels.length - 1;
	return levels.map((_, then) =>
		levels.map((_, now) => (now > then || (now === top && then === top) ? 1 : 0)),
	);
}

/** The next of none, a half and full. */
export function next(credit: number): number {
	const at = EARNS.indexOf(credit);
	return EARNS[(at + 1) % EARNS.length] ?? 0;
}

export function withCredit(rule: RuleText, then: number, now: number, credit: number): RuleText {
	const changed = rule.credit.map((row, at) =>
		at === then ? row.map((one, n) => (n === now ? credit : one)) : row,
	);
	return { ...rule, credit: changed };
}

const tidy = (level: string) => level.replaceAll(/\s/g, "").toLowerCase();

/** A kept rule to start from; moves that it does not name earn none. */
export function textOf(kept: Schemas["MovementRuleBody"], levels: readonly string[]): RuleText {
	const halves = kept.moves.some((move) => halved(levels).map(tidy).includes(move.before));
	const own = halves ? halved(levels) : [...levels];
	const credit = own.map((then) =>
		own.map(
			(now) =>
				kept.moves.find((move) => move.before === tidy(then) && move.after === tidy(now))?.credit ??
				0,
		),
	);
	return { name: kept.rule, test: kept.test, subject: kept.subject, levels: own, credit };
}

/** What is still wrong; nothing where it can be looked at. */
export function wrongIn(rule: RuleText | null): string | undefined {
	if (!rule) return "Choose a test that has levels.";
	if (!rule.name.trim()) return "Give the rule a name.";
	if (rule.credit.every((row) => row.every((one) => one === 0)))
		return "No move earns anything yet.";
	return undefined;
}

/** The rule read back, so that a slip is seen. */
export function inWords(rule: RuleText): string[] {
	return rule.levels.map((then, at) => {
		const row = rule.credit[at] ?? [];
		const to = (wanted: number) => rule.levels.filter((_, now) => row[now] === wanted);
		const parts = [
			...said("full credit", to(1)),
			...said("half of it", to(0.5)),
			...rule.levels
				.filter((_, now) => !EARNS.some((one) => one === row[now]))
				.map((level) => `${Math.round(100 * (row[rule.levels.indexOf(level)] ?? 0))}% at ${level}`),
		];
		return `Who was ${then} earns ${parts.length ? parts.join(", ") : "nothing anywhere"}.`;
	});
}

function said(credit: string, levels: string[]): string[] {
	return levels.length ? [`${credit} at ${levels.join(", ")}`] : [];
}

/** The rule as the file that a table of credit for movement is. */
export function asFile(rule: RuleText): File {
	const rows = rule.levels.flatMap((then, at) =>
		rule.levels.map((now, n) => [
			rule.name.trim(),
			rule.test,
			rule.subject,
			then,
			now,
			String(rule.credit[at]?.[n] ?? 0),
		]),
	);
	const quoted = (cell: string) => `"${cell.replaceAll('"', '""')}"`;
	const heads = ["Rule", "Test", "Subject", "Before", "After", "Credit"];
	const lines = [heads, ...rows].map((row) => row.map(quoted).join(",")).join("\r\n");
	return new File([`${lines}\r\n`], `${rule.name.trim()}.csv`, { type: "text/csv" });
}

import type { Schemas } from "../../api/client";

export type RuleRow = Schemas["RuleRow"];
type Key = keyof RuleRow;

/** An award of one school year and year level as it is written in the editor; its rows say it again each. */
export interface Written {
	award: string;
	school_year: string;
	year_level: number | null;
	rows: RuleRow[];
}

/** Columns of the table, by the headings that its file has. */
export const HEADS: readonly (readonly [Key, string])[] = [
	["award", "Award"],
	["grade", "Grade"],
	["condition", "Condition"],
	["within", "Within"],
	["joins", "Joins"],
	["credits", "Credits"],
	["subjects", "Subjects"],
	["subject", "Subject"],
	["level", "Level"],
	["kind", "Kind"],
	["result", "Result"],
	["standards", "Standards"],
	["school_year", "School year"],
	["year_level", "Year level"],
];

/** What a line of the editor is about. */
export const LINES: readonly { joins: string; words: string }[] = [
	{ joins: "", words: "so many credits" },
	{ joins: "any", words: "one of those within it" },
	{ joins: "all", words: "all of those within it" },
	{ joins: "once", words: "one of the standards" },
];

export function emptyRow(condition = ""): RuleRow {
	return {
		award: "",
		grade: "",
		condition,
		within: "",
		joins: "",
		credits: null,
		subjects: null,
		subject: "",
		level: "",
		kind: "",
		result: "",
		standards: "",
		school_year: "",
		year_level: null,
	};
}

/** The awards among kept rows, each to start from. */
export function awardsIn(rows: readonly RuleRow[]): Written[] {
	const found = new Map<string, Written>();
	for (const row of rows) {
		const key = `${row.award} ${row.school_year} ${row.year_level}`;
		const held = found.get(key) ?? {
			award: row.award,
			school_year: row.school_year ?? "",
			year_level: row.year_level ?? null,
			rows: [],
		};
		found.set(key, { ...held, rows: [...held.rows, row] });
	}
	return [...found.values()];
}

/** The rows as the table has them: each with its award, school year and year level. */
export function asRows(written: Written): RuleRow[] {
	return written.rows.map((row) => ({
		...row,
		award: written.award.trim(),
		school_year: written.school_year.trim(),
		year_level: written.year_level,
	}));
}

/** A line changed, added or taken away. What stands within a line keeps standing there when that
 * is renamed. */
export function withRow(written: Written, at: number, change: Partial<RuleRow>): Written {
	const before = written.rows[at];
	const renamed = change.condition;
	return {
		...written,
		rows: written.rows.map((row, n) => {
			if (n === at) return { ...row, ...change };
			const inside = before?.condition && row.within === before.condition;
			return inside && renamed !== undefined ? { ...row, within: renamed } : row;
		}),
	};
}

export function withoutRow(written: Written, at: number): Written {
	return { ...written, rows: written.rows.filter((_, n) => n !== at) };
}

/** Conditions that others may stand within. */
export function outer(written: Written): string[] {
	return written.rows
		.filter((row) => row.joins === "any" || row.joins === "all" || row.subjects)
		.map((row) => row.condition)
		.filter(Boolean);
}

/** What is still wrong; nothing where it can be looked at. */
export function wrongIn(
	written: Written | null,
	read: Schemas["RulesRead"] | undefined,
): string | undefined {
	if (!written) return "Begin a rule, or start from one that is kept.";
	if (!written.award.trim()) return "Give the award a name.";
	if (!written.rows.length) return "It asks for nothing yet.";
	const first = read?.troubles[0];
	if (first) return `“${written.rows[first.row]?.condition || "A condition"}” ${first.why}.`;
	return read ? undefined : "It is being read back.";
}

/** The rule as the file that a table of awards is. */
export function asFile(written: Written): File {
	const quoted = (cell: unknown) => `"${String(cell ?? "").replaceAll('"', '""')}"`;
	const lines = asRows(written).map((row) => HEADS.map(([key]) => quoted(row[key])).join(","));
	const text = [HEADS.map(([, head]) => quoted(head)).join(","), ...lines].join("\r\n");
	return new File([`${text}\r\n`], `${written.award.trim()}.csv`, { type: "text/csv" });
}

/** A whole number in what was typed (“Year 12” is 12); none else. */
export function levelOf(said: string): number | null {
	const figure = /\d+/.exec(said);
	return figure ? Number(figure[0]) : null;
}

import type { Schemas } from "../../api/client";

/** What one set of cut scores is for; blank: for all. */
export interface CutSet {
	level: string;
	form: string;
	schoolYear: string;
}

/** A step's cut score in one set, as texts. */
export interface CutText {
	from: string;
	upper: string;
	expected: boolean;
}

/** A step as it is written in the editor; `cuts`: one for each set of the scale. */
export interface StepText {
	name: string;
	points: string;
	passes: boolean;
	synonyms: string;
	cuts: CutText[];
}

export interface ScaleText {
	test: string;
	subject: string;
	score: "grade" | "level";
	sets: CutSet[];
	steps: StepText[];
}

export const NO_CUT: CutText = { from: "", upper: "", expected: false };

export function blankStep(): StepText {
	return { name: "", points: "", passes: false, synonyms: "", cuts: [] };
}

export const BLANK: ScaleText = {
	test: "",
	subject: "",
	score: "grade",
	sets: [],
	steps: [blankStep(), blankStep(), blankStep()],
};

/** A set in words: “Y8, form A, 2025-26”. */
export function nameOf(set: CutSet): string {
	const parts = [
		set.level && `Y${set.level}`,
		set.form && `form ${set.form}`,
		set.schoolYear,
	].filter(Boolean);
	return parts.join(", ") || "all";
}

export function sameSet(a: CutSet, b: CutSet): boolean {
	return a.level === b.level && a.form === b.form && a.schoolYear === b.schoolYear;
}

function text(value: number | null | undefined): string {
	return value == null ? "" : String(value);
}

/** A declared scale as texts to edit. */
export function textOf(scale: Schemas["ScaleBody"]): ScaleText {
	const sets: CutSet[] = [];
	const setOf = (cut: Schemas["CutBody"]): CutSet => ({
		level: text(cut.year_level),
		form: cut.form ?? "",
		schoolYear: cut.school_year ?? "",
	});
	for (const cut of scale.steps.flatMap((step) => step.cuts))
		if (!sets.some((set) => sameSet(set, setOf(cut)))) sets.push(setOf(cut));
	sets.sort(
		(a, b) =>
			Number(a.level) - Number(b.level) ||
			a.form.localeCompare(b.form) ||
			a.schoolYear.localeCompare(b.schoolYear),
	);
	return {
		test: scale.test,
		subject: scale.subject,
		score: scale.score === "level" ? "level" : "grade",
		sets,
		steps: scale.steps.map((step) => ({
			name: step.name,
			points: text(step.points),
			passes: step.passes,
			synonyms: step.synonyms.join(" | "),
			cuts: sets.map((set) => {
				const cut = step.cuts.find((one) => sameSet(setOf(one), set));
				return cut
					? { from: text(cut.lowest), upper: text(cut.upper), expected: cut.expected }
					: NO_CUT;
			}),
		})),
	};
}

export function cutOf(step: StepText, set: number): CutText {
	return step.cuts[set] ?? NO_CUT;
}

/** A step with another cut score in one set. */
export function withCut(step: StepText, set: number, part: Partial<CutText>): StepText {
	const cuts = [...step.cuts];
	for (let at = cuts.length; at <= set; at++) cuts.push(NO_CUT);
	cuts[set] = { ...cutOf(step, set), ...part };
	return { ...step, cuts };
}

/** What is wrong, in words; nothing where the scale can be looked at by the intake. */
export function wrongIn(scale: ScaleText): string | undefined {
	const steps = scale.steps.filter((step) => step.name.trim());
	const names = steps.map((step) => step.name.trim());
	if (!scale.test.trim()) return "Say which test the scale belongs to.";
	if (names.length < 2) return "A scale has at least two steps.";
	const twice = names.find((name, at) => names.indexOf(name) !== at);
	if (twice) return `“${twice}” is there twice.`;
	const passing = steps.map((step) => step.passes);
	if (passing.lastIndexOf(false) > passing.indexOf(true) && passing.includes(true))
		return "The pass line is one line: every step above a pass must pass as well.";
	for (const [at, set] of scale.sets.entries()) {
		const wrong = wrongInSet(
			steps.map((step) => ({ name: step.name.trim(), ...cutOf(step, at) })),
			nameOf(set),
		);
		if (wrong) return wrong;
	}
	return undefined;
}

function wrongInSet(cuts: (CutText & { name: string })[], set: string): string | undefined {
	const held = cuts.filter((cut) => cut.from);
	const rising = held.every((cut, at) => at === 0 || Number(cut.from) > Number(held[at - 1]?.from));
	if (!rising || held.some((cut) => Number.isNaN(Number(cut.from))))
		return `The cut scores of ${set} must rise from step to step.`;
	for (const [at, cut] of held.entries()) {
		const next = held[at + 1];
		const upper = Number(cut.upper);
		const inside = upper > Number(cut.from) && !(next && upper >= Number(next.from));
		if (cut.upper && !inside) return `The upper half of ${cut.name} (${set}) must lie inside it.`;
	}
	if (cuts.filter((cut) => cut.expected).length > 1) return `One step is expected at ${set}.`;
	const cutless = cuts.find((cut) => !cut.from && (cut.expected || cut.upper));
	return cutless && `${cutless.name} (${set}) needs a cut score too.`;
}

const HEADS = [
	"Test", "Subject", "Score", "Step", "Points", "Pass", "Synonyms", "Year level", "Form",
	"School year", "From", "Upper half from", "Expected",
]; // biome-ignore format: a row of names

/** The scale as the file that the intake reads: a row per step, and per set with cuts. */
export function asFile(scale: ScaleText): File {
	const sets = scale.sets.length > 0 ? scale.sets : [{ level: "", form: "", schoolYear: "" }];
	const rows = sets.flatMap((set, at) =>
		scale.steps
			.filter((step) => step.name.trim())
			.map((step) => {
				const cut = cutOf(step, at);
				return [
					scale.test.trim(),
					scale.subject.trim(),
					scale.score,
					step.name.trim(),
					step.points.trim(),
					step.passes ? "yes" : "no",
					step.synonyms.trim(),
					set.level,
					set.form.trim(),
					set.schoolYear.trim(),
					cut.from.trim(),
					cut.upper.trim(),
					cut.expected ? "yes" : "",
				];
			}),
	);
	const quoted = (cell: string) => `"${cell.replaceAll('"', '""')}"`;
	const lines = [HEADS, ...rows].map((row) => row.map(quoted).join(",")).join("\r\n");
	return new File([`${lines}\r\n`], `${scale.test.trim()} scale.csv`, { type: "text/csv" });
}

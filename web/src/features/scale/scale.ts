import type { Schemas } from "../../api/client";

/** A step as it is written in the editor; `cuts`: the lowest score by year level ("" = all). */
export interface StepText {
	name: string;
	points: string;
	passes: boolean;
	synonyms: string;
	cuts: Record<string, string>;
}

export interface ScaleText {
	test: string;
	subject: string;
	score: "grade" | "level";
	levels: string[];
	steps: StepText[];
}

export function blankStep(): StepText {
	return { name: "", points: "", passes: false, synonyms: "", cuts: {} };
}

export const BLANK: ScaleText = {
	test: "",
	subject: "",
	score: "grade",
	levels: [],
	steps: [blankStep(), blankStep(), blankStep()],
};

/** A declared scale as texts to edit. */
export function textOf(scale: Schemas["ScaleBody"]): ScaleText {
	const levels = [...new Set(scale.steps.flatMap((step) => Object.keys(step.cuts)))];
	return {
		test: scale.test,
		subject: scale.subject,
		score: scale.score === "level" ? "level" : "grade",
		levels: levels.sort((a, b) => Number(a) - Number(b)),
		steps: scale.steps.map((step) => ({
			name: step.name,
			points: step.points === null ? "" : String(step.points),
			passes: step.passes,
			synonyms: step.synonyms.join(" | "),
			cuts: Object.fromEntries(Object.entries(step.cuts).map(([k, v]) => [k, String(v)])),
		})),
	};
}

/** What is wrong, in words; nothing where the scale can be looked at by the intake. */
export function wrongIn(scale: ScaleText): string | undefined {
	const names = scale.steps.map((step) => step.name.trim()).filter(Boolean);
	if (!scale.test.trim()) return "Say which test the scale belongs to.";
	if (names.length < 2) return "A scale has at least two steps.";
	const twice = names.find((name, at) => names.indexOf(name) !== at);
	if (twice) return `“${twice}” is there twice.`;
	const passing = scale.steps.filter((step) => step.name.trim()).map((step) => step.passes);
	if (passing.lastIndexOf(false) > passing.indexOf(true) && passing.includes(true))
		return "The pass line is one line: every step above a pass must pass as well.";
	for (const level of scale.levels) {
		const cuts = scale.steps.map((step) => step.cuts[level] ?? "").filter(Boolean);
		const rising = cuts.every((cut, at) => at === 0 || Number(cut) > Number(cuts[at - 1]));
		if (!rising || cuts.some((cut) => Number.isNaN(Number(cut))))
			return `The cut scores of ${level ? `year ${level}` : "all year levels"} must rise from step to step.`;
	}
	return undefined;
}

/** The scale as the file that the intake reads: a row per step, and per year level with cuts. */
export function asFile(scale: ScaleText): File {
	const heads = [
		"Test",
		"Subject",
		"Score",
		"Step",
		"Points",
		"Pass",
		"Synonyms",
		"Year level",
		"From",
	];
	const rows = (scale.levels.length > 0 ? scale.levels : [""]).flatMap((level) =>
		scale.steps
			.filter((step) => step.name.trim())
			.map((step) => [
				scale.test.trim(),
				scale.subject.trim(),
				scale.score,
				step.name.trim(),
				step.points.trim(),
				step.passes ? "yes" : "no",
				step.synonyms.trim(),
				level,
				step.cuts[level] ?? "",
			]),
	);
	const quoted = (cell: string) => `"${cell.replaceAll('"', '""')}"`;
	const text = [heads, ...rows].map((row) => row.map(quoted).join(",")).join("\r\n");
	return new File([`${text}\r\n`], `${scale.test.trim()} scale.csv`, { type: "text/csv" });
}

/** How exact a score is, as it is typed; it goes the way of every file. */
export interface ExactText {
	test: string;
	subject: string;
	score: string;
	yearLevel: string;
	form: string;
	reliability: string;
	error: string;
}

export const BLANK: ExactText = {
	test: "",
	subject: "",
	score: "scaled",
	yearLevel: "",
	form: "",
	reliability: "",
	error: "",
};

export const SCORES = ["scaled", "raw", "percent"] as const;
const HEADS = [
	"Test",
	"Subject",
	"Score",
	"Year level",
	"Form",
	"Reliability",
	"Error of measurement",
];

/** A number as people type it; undefined where it is none. */
function numberOf(text: string): number | undefined {
	const value = Number(text.trim().replace(",", "."));
	return text.trim() && Number.isFinite(value) ? value : undefined;
}

/** What is still missing or cannot be; undefined where it can be looked at. */
export function wrongIn(exact: ExactText): string | undefined {
	const reliability = numberOf(exact.reliability);
	const error = numberOf(exact.error);
	if (!exact.test.trim()) return "Name the test.";
	if (!exact.reliability.trim() && !exact.error.trim())
		return "Say a reliability, or an error of measurement.";
	if (exact.reliability.trim() && !(reliability && reliability > 0 && reliability <= 1))
		return "A reliability lies above 0 and up to 1.";
	if (exact.error.trim() && !(error !== undefined && error >= 0))
		return "An error of measurement is a number, not below 0.";
	return undefined;
}

export function asFile(exact: ExactText): File {
	const row = [
		exact.test.trim(),
		exact.subject.trim(),
		exact.score,
		exact.yearLevel.trim(),
		exact.form.trim(),
		numberOf(exact.reliability)?.toString() ?? "",
		numberOf(exact.error)?.toString() ?? "",
	];
	const quoted = (cell: string) => `"${cell.replaceAll('"', '""')}"`;
	const lines = [HEADS, row].map((cells) => cells.map(quoted).join(",")).join("\r\n");
	return new File([`${lines}\r\n`], `${exact.test.trim()} exactness.csv`, { type: "text/csv" });
}

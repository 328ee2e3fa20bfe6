import type { Schemas } from "../../api/client";

const HEADS = ["Test", "Subject", "Sitting", "Form", "Question", "Key"];

/** A table of questions that says one key: of just the sitting and form that are looked into. */
export function keyFile(
	about: Schemas["MeasureInfo"] | undefined,
	row: Schemas["Looked"],
	form: string,
	key: string,
): File {
	const cells = [
		about?.assessment ?? "",
		about?.subject ?? "",
		about?.sitting ?? "",
		form,
		row.label,
		key.trim(),
	];
	const quoted = (cell: string) => `"${cell.replaceAll('"', '""')}"`;
	const text = [HEADS, cells].map((line) => line.map(quoted).join(",")).join("\r\n");
	return new File([`${text}\r\n`], `key of ${row.label}.csv`, { type: "text/csv" });
}

import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { keyFile } from "./key";

const about: Schemas["MeasureInfo"] = {
	asked: { assessment: 3 },
	label: "Mathematics, winter",
	assessment: 'The "long" paper, part one',
	subject: null,
	sitting: "winter",
	score: "raw mark",
	unit: "marks",
	date: "2026-02-10",
	minimum: 0,
	maximum: 40,
	decimals: 0,
};
const row: Schemas["Looked"] = { label: "Q7 a", maximum: 1 };

test("a key is a table of just one form and question, whatever they are called", async () => {
	const file = keyFile(about, row, "B", " B|D ");
	expect(file.name).toBe("key of Q7 a.csv");
	expect((await file.text()).split("\r\n")).toEqual([
		'"Test","Subject","Sitting","Form","Question","Key"',
		'"The ""long"" paper, part one","","winter","B","Q7 a","B|D"',
		"",
	]);
});

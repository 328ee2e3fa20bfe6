import { describe, expect, test } from "vitest";
import { asFile, BLANK, wrongIn } from "./exact";

const TYPED = { ...BLANK, test: 'The "big" test', reliability: "0,91", yearLevel: "8" };

describe("how exact a score is", () => {
	test("says what is missing or cannot be", () => {
		expect(wrongIn(BLANK)).toBe("Name the test.");
		expect(wrongIn({ ...BLANK, test: "T" })).toContain("reliability, or an error");
		for (const reliability of ["0", "1.2", "-0.5", "high"])
			expect(wrongIn({ ...TYPED, reliability })).toContain("above 0 and up to 1");
		expect(wrongIn({ ...TYPED, error: "-3" })).toContain("not below 0");
		expect(wrongIn(TYPED)).toBeUndefined();
		expect(wrongIn({ ...TYPED, reliability: "", error: "2.5" })).toBeUndefined();
	});

	test("is a file like any other", async () => {
		const text = await asFile(TYPED).text();
		expect(text.split("\r\n")).toEqual([
			'"Test","Subject","Score","Year level","Form","Reliability","Error of measurement"',
			'"The ""big"" test","","scaled","8","","0.91",""',
			"",
		]);
	});
});

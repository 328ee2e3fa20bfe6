import { expect, test } from "vitest";
import { asFile, effectOf, keyOf, kindsOf, moved, type NameInUse, ordered, rowsOf } from "./names";

function name(what: string, of: string, called: string, part: Partial<NameInUse> = {}): NameInUse {
	return { what, of, name: called, n: 3, also: [], dates: [], holds: "", ...part };
}

const M = name("value", "Sex", "M");
const MALE = name("value", "Sex", "Male", { also: ["Boy"] });
const AUTUMN = name("sitting", "Quiz", "autumn", { dates: ["2025-10-10"] });
const NAMES = [name("school", "", "Ash"), M, MALE, AUTUMN];

test("values of each characteristic are a kind of their own, after the plain ones", () => {
	expect(kindsOf(NAMES).map((kind) => kind.label)).toEqual(["Schools", "Sittings", "Sex"]);
});

test("only what is new is said, and names that come apart mean themselves", () => {
	const saying = {
		[keyOf(M)]: { means: "Male" },
		[keyOf(MALE)]: { means: "Male", apart: ["Boy"] },
		[keyOf(AUTUMN)]: { date: "2025-10-12" },
	};
	expect(rowsOf(NAMES, saying)).toEqual([
		["value", "M", "Sex", "Male", "", "", ""],
		["value", "Boy", "Sex", "Boy", "", "", ""],
		["sitting", "autumn", "Quiz", "", "2025-10-12", "", ""],
	]);
	expect(rowsOf(NAMES, { [keyOf(M)]: { means: " " }, [keyOf(AUTUMN)]: { date: "" } })).toEqual([]);
});

test("an effect says whether a name joins another or is new", () => {
	const kind = kindsOf(NAMES).find((one) => one.label === "Sex");
	if (!kind) throw new Error("no kind");
	expect(effectOf(M, { means: "Male" }, kind)).toBe("becomes one with Male");
	expect(effectOf(M, { means: "Men" }, kind)).toBe("is called Men");
	expect(effectOf(M, { means: "M" }, kind)).toBeUndefined();
});

test("moving a value gives every value its place", () => {
	const kind = kindsOf(NAMES).find((one) => one.label === "Sex");
	if (!kind) throw new Error("no kind");
	const saying = moved(kind, {}, 1, -1);
	expect(ordered(kind, saying).map((one) => one.name)).toEqual(["Male", "M"]);
	expect(rowsOf(kind.names, saying).map((row) => row[5])).toEqual(["2", "1"]);
});

test("quotes in a name stay in their cell", async () => {
	const odd = name("school", "", 'The "Old" School');
	const text = await asFile([odd], { [keyOf(odd)]: { means: "Old, new" } }).text();
	expect(text.split("\r\n")[1]).toBe('"school","The ""Old"" School","","Old, new","","",""');
});

import type { Schemas } from "../../api/client";

export type NameInUse = Schemas["NameInUse"];

/** What is said of one name; a key that is missing says nothing of it. `apart`: names that are to be
 * their own again. */
export interface Said {
	means?: string;
	date?: string;
	place?: number;
	holds?: string;
	apart?: string[];
}
export type Saying = Record<string, Said>;

/** A kind of names as the page lists it: names of one kind, of one characteristic or test. */
export interface Kind {
	key: string;
	label: string;
	names: NameInUse[];
}

export const HOLDS = [
	{ key: "groups", label: "groups" },
	{ key: "ordered", label: "groups in an order" },
	{ key: "text", label: "a text or place, no groups" },
];

const LABELS: Record<string, string> = {
	school: "Schools",
	subject: "Subjects",
	test: "Tests",
	sitting: "Sittings",
	characteristic: "Characteristics",
};

export function keyOf(name: NameInUse): string {
	return JSON.stringify([name.what, name.of, name.name]);
}

/** The kinds in the order in which one looks for them; a characteristic's values are one each. */
export function kindsOf(names: NameInUse[]): Kind[] {
	const plain = Object.entries(LABELS).map(([what, label]) => ({
		key: what,
		label,
		names: names.filter((name) => name.what === what),
	}));
	const of = [...new Set(names.filter((n) => n.what === "value").map((n) => n.of))];
	const values = of.map((one) => ({
		key: `value ${one}`,
		label: one,
		names: names.filter((name) => name.what === "value" && name.of === one),
	}));
	return [...plain, ...values].filter((kind) => kind.names.length > 0);
}

/** What a name would mean, in words; nothing where it stays what it is. */
export function effectOf(name: NameInUse, said: Said, kind: Kind): string | undefined {
	const means = said.means?.trim();
	const parts: string[] = [];
	if (means && means !== name.name) {
		const other = kind.names.find((one) => one.name === means && one.of === name.of);
		parts.push(other ? `becomes one with ${means}` : `is called ${means}`);
	}
	if (said.apart?.length) parts.push(`${said.apart.join(", ")} apart again`);
	if (said.date && said.date !== name.dates[0]) parts.push(`was on ${said.date}`);
	if (said.holds && said.holds !== name.holds)
		parts.push(`holds ${HOLDS.find((one) => one.key === said.holds)?.label ?? said.holds}`);
	return parts.join("; ") || undefined;
}

/** Values of a kind in the order said so far. */
export function ordered(kind: Kind, saying: Saying): NameInUse[] {
	const place = (name: NameInUse) => saying[keyOf(name)]?.place ?? kind.names.indexOf(name) + 1;
	return [...kind.names].sort((a, b) => place(a) - place(b));
}

/** The order with one value moved up or down; every value then has its place. */
export function moved(kind: Kind, saying: Saying, at: number, by: number): Saying {
	const list = ordered(kind, saying);
	const [one] = list.splice(at, 1);
	if (one) list.splice(at + by, 0, one);
	const places = list.map((name, n) => [keyOf(name), { ...saying[keyOf(name)], place: n + 1 }]);
	return { ...saying, ...Object.fromEntries(places) };
}

type Row = [
	what: string,
	name: string,
	of: string,
	means: string,
	date: string,
	place: string,
	holds: string,
];

/** Rows of the table of names: only what says something that does not hold already. */
export function rowsOf(names: NameInUse[], saying: Saying): Row[] {
	return names.flatMap((name): Row[] => {
		const said = saying[keyOf(name)] ?? {};
		const means = said.means?.trim() ?? "";
		const changed = means && means !== name.name ? means : "";
		const date = said.date && said.date !== name.dates[0] ? said.date : "";
		const holds = said.holds && said.holds !== name.holds ? said.holds : "";
		// A name that joins another takes that one's place.
		const joins = names.some(
			(one) => one.what === name.what && one.of === name.of && one.name === changed,
		);
		const place = said.place === undefined || joins ? "" : String(said.place);
		const own: Row[] =
			changed || date || holds || place
				? [[name.what, name.name, name.of, changed, date, place, holds]]
				: [];
		const apart = (said.apart ?? []).map(
			(other): Row => [name.what, other, name.of, other, "", "", ""],
		);
		return [...own, ...apart];
	});
}

const HEADS = ["What", "Name", "Of", "Means", "Date", "Place", "Holds"];

/** What was said as the file that the intake reads. */
export function asFile(names: NameInUse[], saying: Saying): File {
	const quoted = (cell: string) => `"${cell.replaceAll('"', '""')}"`;
	const lines = [HEADS, ...rowsOf(names, saying)].map((row) => row.map(quoted).join(","));
	return new File([`${lines.join("\r\n")}\r\n`], "Names said.csv", { type: "text/csv" });
}

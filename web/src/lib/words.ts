/** The district's own words and its way of writing numbers and dates, as said at Setup. */
export interface Words {
	year_level: string;
	level_before: string;
	level_names: Record<string, string>;
	numbers: string;
	dates: string;
}

export const PLAIN: Words = {
	year_level: "year level",
	level_before: "Year ",
	level_names: {},
	numbers: "1,234.5",
	dates: "2026-03-02",
};

const NARROW_SPACE = "\u202f";
/** What stands between thousands and before decimals, by the example. */
const SIGNS: Record<string, [string, string]> = {
	"1,234.5": [",", "."],
	"1.234,5": [".", ","],
	"1 234,5": [NARROW_SPACE, ","],
	"1 234.5": [NARROW_SPACE, "."],
	"1234.5": ["", "."],
	"1234,5": ["", ","],
};
const MONTHS =
	"January February March April May June July August September October November December".split(
		" ",
	);

let words = PLAIN;

/** From here on the page speaks these words. */
export function speak(said: Partial<Words>): void {
	words = { ...PLAIN, ...said };
}

/** A number with commas between thousands and a point, in the district's signs. */
export function inSigns(plain: string): string {
	const [thousands, point] = SIGNS[words.numbers] ?? [",", "."];
	return plain.replace(/[,.]/g, (sign) => (sign === "," ? thousands : point));
}

/** A role as people call it. */
export function roleName(role: string): string {
	return role.replaceAll("_", " ");
}

/** A date in ISO, as the district writes it. */
export function day(iso: string): string {
	const [year, month, date] = iso.slice(0, 10).split("-");
	switch (words.dates) {
		case "2 March 2026":
			return `${Number(date)} ${MONTHS[Number(month) - 1]} ${year}`;
		case "02/03/2026":
			return `${date}/${month}/${year}`;
		case "03/02/2026":
			return `${month}/${date}/${year}`;
		case "02.03.2026":
			return `${date}.${month}.${year}`;
		default:
			return `${year}-${month}-${date}`;
	}
}

/** A moment: its day and the time on this machine's clock. */
export function moment(iso: string): string {
	const at = new Date(iso);
	const two = (n: number) => String(n).padStart(2, "0");
	const local = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
	return `${day(local)}, ${two(at.getHours())}:${two(at.getMinutes())}`;
}

export function levelName(level: number): string {
	return words.level_names[level] ?? `${words.level_before}${level}`;
}

/** What a year level is called. */
export function yearLevel(): string {
	return words.year_level;
}

/** What several are called. */
export function yearLevels(): string {
	const one = words.year_level;
	if (/(s|x|ch|sh)$/.test(one)) return `${one}es`;
	return /[^aeiou]y$/.test(one) ? `${one.slice(0, -1)}ies` : `${one}s`;
}

export function someYearLevel(): string {
	return `${/^[aeiou]/i.test(words.year_level) ? "an" : "a"} ${words.year_level}`;
}

export function capitalised(text: string): string {
	return text.slice(0, 1).toUpperCase() + text.slice(1);
}

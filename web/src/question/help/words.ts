import { yearLevel, yearLevels } from "../../lib/words";

/** Every term of the screens, with its meaning and the page that says all of it. */
export interface Word {
	term: string;
	meaning: string;
	page: string;
}

export function termsOf(): Word[] {
	return [
		{
			term: "yardstick",
			meaning: "What a result is held against: similar starters, a target, the nation, a group.",
			page: "value-added",
		},
		{
			term: "span",
			meaning: "The result minus the yardstick, as a mean over the row.",
			page: "value-added",
		},
		{
			term: "95% interval",
			meaning: "The range that the figure could have taken with a like cohort.",
			page: "description",
		},
		{
			term: "▲ ahead, ▼ behind",
			meaning: "Beyond what chance would give, with all rows shown taken into account.",
			page: "false-discoveries",
		},
		{
			term: "● alike, ○ unclear, ◇ few",
			meaning: "Shown to be close; too wide to tell; too few students to judge.",
			page: "trust",
		},
		{
			term: "coverage",
			meaning: "Who is counted, who is not, and why. Not entered: was not meant to sit.",
			page: "coverage",
		},
		{
			term: "starting band",
			meaning: `Thirds of the district's ${yearLevel()} by the score that students started with.`,
			page: "bands",
		},
		{
			term: "pooled, reliability",
			meaning: "Small rows are drawn towards the middle as far as their size leaves doubt.",
			page: "multilevel",
		},
		{
			term: "rank, 95%",
			meaning: "Where the row could stand in the order. A wide range: don't rank.",
			page: "ranks",
		},
		{
			term: "in sd",
			meaning: `The span in standard deviations of the scores within ${yearLevels()}.`,
			page: "practical-size",
		},
	];
}

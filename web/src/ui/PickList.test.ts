import { expect, test } from "vitest";
import { found, type Pick, sections } from "./PickList";

const pick = (words: string, group?: string): Pick => ({
	key: words,
	words,
	chosen: false,
	pick: () => {},
	...(group ? { group } : {}),
});
const picks = [pick("Fernhollow", "North"), pick("Ærø Sund", "North"), pick("Tarn Élan", "South")];

test("every word said must occur, in any order, without accents", () => {
	expect(found(picks, "elan tarn").map((one) => one.words)).toEqual(["Tarn Élan"]);
	expect(found(picks, "north fern").map((one) => one.words)).toEqual(["Fernhollow"]);
	expect(found(picks, "  ")).toHaveLength(3);
	expect(found(picks, "nowhere")).toEqual([]);
});

test("a heading stands above its lines, wherever they come", () => {
	expect(sections([...picks, pick("Ness", "North")])[0]?.picks).toHaveLength(3);
	expect(sections(picks).map((one) => [one.key, one.picks.length])).toEqual([
		["North", 2],
		["South", 1],
	]);
	expect(sections([pick("a")])).toHaveLength(1);
});

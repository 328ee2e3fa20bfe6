import type { Catalogue, Question } from "../../api/client";
import { useKeys } from "../../lib/keys";
import type { Lens } from "../model/lens";
import { turnedSplit, withSplits } from "../model/splits";
import type { Place } from "./place";

interface Keys {
	place: Place;
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
	choose: (lens: Lens) => void;
	now: Lens | undefined;
}

interface Does {
	numbers: () => void;
	detail: () => void;
	help: () => void;
	close: () => void;
}

/** The keys of every place that asks. */
export function usePlaceKeys(
	{ place, question, catalogue, ask, choose, now }: Keys,
	does: Does,
): void {
	const byShow = (show: string) => place.lenses.find((lens) => lens.show === show);
	const turn = (by: number) => {
		const next = turnedSplit(question, catalogue, by);
		if (next) ask(withSplits(question, [next]));
	};
	const table = byShow(now?.show === "table" ? "spans" : "table");
	useKeys({
		...Object.fromEntries(place.lenses.map((lens, at) => [String(at + 1), () => choose(lens)])),
		q: () => document.querySelector<HTMLElement>("#sentence button")?.focus(),
		t: () => (now?.Numbers ? does.numbers() : table && choose(table)),
		d: does.detail,
		"[": () => turn(-1),
		"]": () => turn(1),
		"?": does.help,
		escape: does.close,
	});
}

import type { Question } from "../../api/client";
import { yearLevel } from "../../lib/words";
import { type Pick, PickList } from "../../ui/PickList";
import { plainOf, type Sitting, sittingOf } from "../model/question";
import {
	type Against,
	againstEarlier,
	againstEveryone,
	againstGroup,
	againstGrowth,
	againstStart,
	againstTarget,
	expectedBy,
	goalOf,
	kindOf,
	type PriorSpec,
	priorOf,
	startsFor,
	toggledPrior,
} from "../model/yardsticks";
import type { PickerProps } from "./picker";

/** What the result is held against. */
export function YardstickPicker({ question, catalogue, ask, close }: PickerProps) {
	const sitting = sittingOf(question, catalogue);
	const choose = (against: Against) => () => {
		ask({ ...question, against, sort: [] });
		close();
	};
	const change = (next: PriorSpec) => ask({ ...question, against: againstStart(next), sort: [] });
	const why = sitting?.has_prior ? undefined : "There is no earlier score to start from.";
	return (
		<div className="grid grid-cols-2 gap-3">
			<PickList
				label="yardsticks"
				focus
				height={380}
				picks={[
					...yardsticks(question, sitting, choose, why),
					...groups(question, catalogue.groups, choose),
				]}
			/>
			{sitting && !why && (
				<div className="border-l border-line pl-2">
					<PickList
						label="how where they started is worked out"
						height={380}
						picks={[
							...models(question, sitting, change),
							...starts(question, startsFor(sitting, catalogue), change),
							...allowed(question, catalogue.characteristics, change),
						]}
					/>
				</div>
			)}
		</div>
	);
}

type Choose = (against: Against) => () => void;

function yardsticks(
	question: Question,
	sitting: Sitting | undefined,
	choose: Choose,
	why: string | undefined,
): Pick[] {
	const kind = kindOf(question.against);
	const target = question.against && "target" in question.against ? question.against.target : null;
	return [
		{
			key: "prior",
			chosen: kind === "prior",
			words: "where they started",
			aside: "similar starters",
			why,
			pick: choose(againstStart(priorOf(question) ?? {})),
		},
		{
			key: "nothing",
			chosen: kind === "nothing",
			words: "nothing",
			aside: "the scores as they are",
			pick: choose(null),
		},
		{
			key: "earlier",
			chosen: kind === "earlier",
			words: "the sitting before",
			aside: "same students",
			why: sitting?.has_earlier ? undefined : "There is no earlier sitting of this test.",
			pick: choose(againstEarlier()),
		},
		{
			key: "nation",
			chosen: kind === "nation",
			words: "the nation",
			aside: `by form and ${yearLevel()}`,
			why: sitting?.has_nation ? undefined : "There is no national table of this sitting.",
			pick: choose({ nation: {} }),
		},
		...(sitting?.growth ?? []).map((goal) => ({
			key: `growth ${goal}`,
			chosen: goalOf(question.against) === goal,
			words: `the ${goal} growth`,
			aside: "the table's, since the sitting before",
			pick: choose(againstGrowth(goal)),
		})),
		...(sitting?.claims ?? []).map((one) => ({
			key: `claim ${one.label}`,
			chosen: one.role === "target" ? target?.kind === one.kind : kind === "predicted",
			words: one.role === "target" ? `the ${one.label}` : "what was predicted",
			pick: choose(one.role === "target" ? againstTarget(one.kind ?? "") : { predicted: {} }),
		})),
	];
}

function groups(question: Question, saved: { id: number; name: string }[], choose: Choose): Pick[] {
	const group = "Another group";
	const now = JSON.stringify(question.against);
	const held = (against: Against) => now === JSON.stringify(against);
	return [
		{
			key: "everyone",
			group,
			chosen: kindOf(question.against) === "group" && held(againstEveryone(question)),
			words: "everyone else like them",
			aside: "any school",
			pick: choose(againstEveryone(question)),
		},
		...saved.map((one) => ({
			key: `group ${one.id}`,
			group,
			chosen: held(againstGroup([{ set: one.id }])),
			words: one.name,
			pick: choose(againstGroup([{ set: one.id }])),
		})),
	];
}

type Change = (next: PriorSpec) => void;

const CURVES = [
	["linear", "a straight line"],
	["spline", "a smooth curve"],
	["cubic", "a cubic curve"],
	["equal_scores", "the mean of equal starters"],
	["table", "the table of expected outcomes"],
] as const;

/** How “where they started” is worked out; every choice takes effect at once. */
function models(question: Question, sitting: Sitting, change: Change): Pick[] {
	const held = priorOf(question);
	const spec = held ?? {};
	const places = "Schools and classes";
	return [
		...CURVES.filter(([expect]) => expect !== "table" || sitting.growth?.length).map(
			([expect, words]) => ({
				key: `curve ${expect}`,
				group: "Where they started, expected by",
				chosen: held !== null && (spec.expect ?? "linear") === expect,
				words,
				pick: () => change(expectedBy(spec, expect)),
			}),
		),
		{
			key: "simple",
			group: places,
			chosen: held !== null && (spec.model ?? "simple") === "simple",
			words: "each by its own students",
			pick: () => change({ ...spec, model: "simple" }),
		},
		{
			key: "multilevel",
			group: places,
			chosen: spec.model === "multilevel",
			words: "pooled, with ranks",
			aside: "multilevel",
			pick: () => change({ ...spec, model: "multilevel" }),
		},
		{
			key: "corrected",
			group: places,
			chosen: spec.model === "corrected",
			words: "without the error in the start",
			aside: "corrected",
			pick: () => change({ ...spec, model: "corrected", expect: "linear" }),
		},
	];
}

/** Characteristics that the expectation allows for; only when asked. */
function allowed(
	question: Question,
	characteristics: { id: number; label: string }[],
	change: Change,
): Pick[] {
	const held = priorOf(question);
	const spec = held ?? {};
	const line = !["table", "equal_scores"].includes(spec.expect ?? "linear");
	const chosen = (spec.covariates ?? []).map(String);
	const why =
		line && spec.model !== "corrected" ? undefined : "A line or a curve is needed for this.";
	return characteristics.map((one) => {
		const said = chosen.includes(String(one.id)) || chosen.includes(one.label);
		const others = (spec.covariates ?? []).filter((ref) => ref !== one.id && ref !== one.label);
		return {
			key: `allow ${one.id}`,
			group: "Allow also for",
			ticks: true,
			chosen: held !== null && said,
			words: one.label,
			why,
			pick: () => change({ ...spec, covariates: said ? others : [...others, one.id] }),
		};
	});
}

function starts(question: Question, sittings: Sitting[], change: Change): Pick[] {
	const spec = priorOf(question) ?? {};
	const chosen = Array.isArray(spec.priors) ? spec.priors : [];
	const group = "Started with";
	return [
		{
			key: "usual",
			group,
			ticks: true,
			chosen: chosen.length === 0,
			words: "what is usual for this test",
			pick: () => change({ ...spec, priors: "declared" }),
		},
		...sittings.map((one) => ({
			key: one.key,
			group,
			ticks: true,
			chosen: chosen.some((prior) => plainOf(prior).sitting === one.sitting_id),
			words: one.label,
			pick: () => change(toggledPrior(spec, one)),
		})),
	];
}

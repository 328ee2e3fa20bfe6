import { Choice, Heading, Tick } from "./Choice";
import type { PickerProps } from "./MeasurePicker";
import { plainOf, sittingOf } from "./question";
import {
	type Against,
	againstEarlier,
	againstEveryone,
	againstGroup,
	againstStart,
	againstTarget,
	kindOf,
	type PriorSpec,
	priorOf,
	startsFor,
	toggledPrior,
} from "./yardsticks";

const CURVES = [
	["linear", "a straight line"],
	["spline", "a smooth curve"],
	["cubic", "a cubic curve"],
	["equal_scores", "the mean of equal starters"],
] as const;

/** What the result is held against. */
export function YardstickPicker({ question, catalogue, ask, close }: PickerProps) {
	const sitting = sittingOf(question, catalogue);
	const kind = kindOf(question.against);
	const choose = (against: Against) => () => {
		ask({ ...question, against, sort: [] });
		close();
	};
	const why = sitting?.has_prior ? undefined : "There is no earlier score to start from.";
	const target = question.against && "target" in question.against ? question.against.target : null;
	return (
		<div className="grid grid-cols-[1fr_1fr] gap-3">
			<div>
				<Choice
					chosen={kind === "prior"}
					words="where they started"
					aside="similar starters"
					why={why}
					pick={choose(againstStart(priorOf(question) ?? {}))}
				/>
				<Choice
					chosen={kind === "nothing"}
					words="nothing"
					aside="the scores as they are"
					pick={choose(null)}
				/>
				<Choice
					chosen={kind === "earlier"}
					words="the sitting before"
					aside="same students"
					why={sitting?.has_earlier ? undefined : "There is no earlier sitting of this test."}
					pick={choose(againstEarlier())}
				/>
				<Choice
					chosen={kind === "nation"}
					words="the nation"
					aside="by form and year level"
					why={sitting?.has_nation ? undefined : "There is no national table of this sitting."}
					pick={choose({ nation: {} })}
				/>
				{sitting?.claims.map((one) => (
					<Choice
						key={one.label}
						chosen={one.role === "target" ? target?.kind === one.kind : kind === "predicted"}
						words={one.role === "target" ? `the ${one.label}` : "what was predicted"}
						pick={choose(one.role === "target" ? againstTarget(one.kind ?? "") : { predicted: {} })}
					/>
				))}
				<Heading>Another group</Heading>
				<Choice
					chosen={kind === "group"}
					words="everyone else like them"
					aside="any school"
					pick={choose(againstEveryone(question))}
				/>
				{catalogue.groups.map((one) => (
					<Choice
						key={one.id}
						chosen={false}
						words={one.name}
						pick={choose(againstGroup([{ set: one.id } as never]))}
					/>
				))}
			</div>
			<Start {...{ question, catalogue, ask, close }} why={why} />
		</div>
	);
}

/** How “where they started” is worked out; every choice takes effect at once. */
function Start({ question, catalogue, ask, why }: PickerProps & { why: string | undefined }) {
	const spec = priorOf(question) ?? {};
	const sitting = sittingOf(question, catalogue);
	const change = (next: PriorSpec) => ask({ ...question, against: againstStart(next), sort: [] });
	if (why || !sitting) return <div />;
	const chosen = Array.isArray(spec.priors) ? spec.priors : [];
	return (
		<div className="border-l border-line pl-2">
			<Heading>Where they started, expected by</Heading>
			{CURVES.map(([expect, words]) => (
				<Choice
					key={expect}
					chosen={priorOf(question) !== null && (spec.expect ?? "linear") === expect}
					words={words}
					pick={() => change({ ...spec, expect })}
				/>
			))}
			<Heading>Schools and classes</Heading>
			<Choice
				chosen={priorOf(question) !== null && (spec.model ?? "simple") === "simple"}
				words="each by its own students"
				pick={() => change({ ...spec, model: "simple" })}
			/>
			<Choice
				chosen={spec.model === "multilevel"}
				words="pooled, with ranks"
				aside="multilevel"
				pick={() => change({ ...spec, model: "multilevel" })}
			/>
			<Choice
				chosen={spec.model === "corrected"}
				words="without the error in the start"
				aside="corrected"
				pick={() => change({ ...spec, model: "corrected", expect: "linear" })}
			/>
			<Heading>Started with</Heading>
			<Tick
				checked={chosen.length === 0}
				words="what is usual for this test"
				change={() => change({ ...spec, priors: "declared" })}
			/>
			<div className="max-h-36 overflow-auto">
				{startsFor(sitting, catalogue).map((one) => (
					<Tick
						key={one.key}
						checked={chosen.some((prior) => plainOf(prior).sitting === one.sitting_id)}
						words={one.label}
						change={() => change(toggledPrior(spec, one))}
					/>
				))}
			</div>
		</div>
	);
}

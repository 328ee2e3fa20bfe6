import type { Catalogue, Question } from "../../api/client";
import { count } from "../../lib/numbers";
import { againstStart, expectOf, measureOf, splitKey, splitsOf } from "./question";

export interface PickerProps {
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
	close: () => void;
}

interface ChoiceProps {
	chosen: boolean;
	words: string;
	aside?: string;
	why?: string;
	pick: () => void;
}

/** One line of a picker; `why` says why it cannot be chosen. */
function Choice({ chosen, words, aside, why, pick }: ChoiceProps) {
	return (
		<button
			type="button"
			aria-pressed={chosen}
			disabled={Boolean(why)}
			onClick={pick}
			className={`flex w-full items-baseline justify-between gap-3 rounded px-2 py-1 text-left enabled:hover:bg-amber-wash disabled:cursor-default disabled:text-muted ${chosen ? "bg-amber-wash font-semibold" : ""}`}
		>
			<span>
				{words}
				{why && <span className="block text-xs">{why}</span>}
			</span>
			{aside && <span className="shrink-0 text-xs text-muted">{aside}</span>}
		</button>
	);
}

export function MeasurePicker({ question, catalogue, ask, close }: PickerProps) {
	const now = JSON.stringify(question.what[0]);
	return (
		<>
			{catalogue.measures.map((measure) => {
				const made = measureOf(measure);
				return (
					<Choice
						key={measure.key}
						chosen={JSON.stringify(made) === now}
						words={`${measure.label}, ${measure.score_label}`}
						aside={count(measure.n, "student")}
						pick={() => {
							const against = measure.has_prior ? question.against : null;
							ask({ ...question, what: [made], against } as Question);
							close();
						}}
					/>
				);
			})}
		</>
	);
}

export function SplitPicker({ question, catalogue, ask, close }: PickerProps) {
	const now = splitKey(question.split?.[0]);
	const none = { key: "nothing", label: "nothing", dimension: undefined };
	return (
		<>
			{[none, ...splitsOf(catalogue)].map((item) => (
				<Choice
					key={item.key}
					chosen={item.key === now}
					words={item.label}
					pick={() => {
						ask({ ...question, split: item.dimension ? [item.dimension] : [], sort: [] });
						close();
					}}
				/>
			))}
		</>
	);
}

/** Other ways to the expected outcome than a straight line. */
const OTHER_CURVES = [
	{ expect: "spline", words: "a smooth curve" },
	{ expect: "cubic", words: "a cubic curve" },
	{ expect: "equal_scores", words: "the mean of equal starters" },
];

export function YardstickPicker({ question, catalogue, ask, close }: PickerProps) {
	const now = JSON.stringify(question.what[0]);
	const measure = catalogue.measures.find((item) => JSON.stringify(measureOf(item)) === now);
	const why =
		measure && !measure.has_prior ? "There is no earlier sitting of this test." : undefined;
	const choose = (against: Question["against"]) => () => {
		ask({ ...question, against, sort: [] });
		close();
	};
	return (
		<>
			<Choice
				chosen={expectOf(question) === "linear"}
				words="where they started"
				aside="by a straight line"
				why={why}
				pick={choose(againstStart("linear"))}
			/>
			<Choice
				chosen={!question.against}
				words="nothing"
				aside="the scores as they are"
				pick={choose(null)}
			/>
			<p className="px-2 pt-2 pb-1 text-muted text-xs">where they started, expected by</p>
			{OTHER_CURVES.map(({ expect, words }) => (
				<Choice
					key={expect}
					chosen={expectOf(question) === expect}
					words={words}
					why={why}
					pick={choose(againstStart(expect))}
				/>
			))}
		</>
	);
}

import { useState } from "react";
import type { Catalogue, Condition, Dimension, Question } from "../../api/client";
import { type Pick, PickList } from "../../ui/PickList";
import { measureOf, partOf, plainOf, sittingOf } from "../model/question";
import {
	cutsIn,
	groupSplits,
	measureOutside,
	type SplitChoice,
	splitKey,
	splitsOf,
	withSplits,
} from "../model/splits";
import type { PickerProps } from "./picker";

/** One thing to split by, or two; or chosen groups side by side. */
export function SplitPicker({ question, catalogue, ask, close }: PickerProps) {
	const [first, second] = groupSplits(question);
	const choices = splitsOf(catalogue);
	const sitting = sittingOf(question, catalogue);
	const go = (splits: Dimension[]) => {
		ask(withSplits(question, splits));
		close();
	};
	const outer = choices.map((item) => ({
		key: item.key,
		words: item.label,
		chosen: item.key === splitKey(first),
		pick: () =>
			go(second && splitKey(second) !== item.key ? [item.dimension, second] : [item.dimension]),
	}));
	const level = sitting &&
		sitting.steps.length > 0 && {
			key: "level",
			words: "level",
			chosen: splitKey(first) === "level",
			pick: () => go([{ level_of: measureOf(sitting) }]),
		};
	return (
		<div className="grid grid-cols-3 gap-3">
			<PickList
				label="By"
				focus
				height={330}
				picks={under("By", [
					{ key: "nothing", words: "nothing", chosen: !first, pick: () => go([]) },
					...outer,
					...(level ? [level] : []),
				])}
			/>
			{question.what.length > 1 || isEach(question) ? (
				<Together {...{ question, first, ask }} />
			) : (
				<Within {...{ choices, first, second, go }} />
			)}
			<div className="min-w-0 space-y-3">
				<SideBySide catalogue={catalogue} choose={go} />
				<OwnBands first={first} choose={(dimension) => go([dimension])} />
			</div>
		</div>
	);
}

function under(group: string, picks: Pick[]): Pick[] {
	return picks.map((one) => ({ ...one, group }));
}

function isEach(question: Question): boolean {
	const plain = plainOf(question.what[0]);
	return plain.subject === "each" || partOf(plain)?.is === "each" || plain.sitting === "each";
}

interface OwnBandsProps {
	first: Dimension | undefined;
	choose: (dimension: Dimension) => void;
}

/** Starting bands with cuts of one's own, the same in every year level. */
function OwnBands({ first, choose }: OwnBandsProps) {
	const held = first && typeof first !== "string" && "band" in first ? first.scheme : null;
	const [text, setText] = useState((held?.cuts ?? []).join(", "));
	const cuts = cutsIn(text);
	return (
		<form
			onSubmit={(event) => {
				event.preventDefault();
				if (cuts) choose({ band: "prior", scheme: { cuts } });
			}}
		>
			<label className="block">
				<span className="text-[13px] font-semibold">Starting bands cut at</span>
				<input
					className="input input-xs w-full"
					placeholder="300, 340"
					value={text}
					onChange={(event) => setText(event.target.value)}
				/>
			</label>
			<button type="submit" className="btn btn-outline btn-xs mt-1" disabled={!cuts}>
				Split by these
			</button>
		</form>
	);
}

interface TogetherProps {
	question: Question;
	first: Dimension | undefined;
	ask: PickerProps["ask"];
}

/** Several measures: which stands outside, they or the groups. */
function Together({ question, first, ask }: TogetherProps) {
	const why = first ? undefined : "Choose a split first";
	return (
		<PickList
			label="Together with the measures"
			picks={under("Together with the measures", [
				{
					key: "inside",
					words: "each group with its measures",
					chosen: !measureOutside(question),
					why,
					pick: () => ask({ ...question, split: first ? [first] : [], sort: [] }),
				},
				{
					key: "outside",
					words: "each measure with its groups",
					chosen: measureOutside(question),
					why,
					pick: () => ask({ ...question, split: first ? ["measure", first] : [], sort: [] }),
				},
			])}
		/>
	);
}

interface WithinProps {
	choices: SplitChoice[];
	first: Dimension | undefined;
	second: Dimension | undefined;
	go: (splits: Dimension[]) => void;
}

function Within({ choices, first, second, go }: WithinProps) {
	const inner = choices
		.filter((item) => item.key !== splitKey(first))
		.map((item) => ({
			key: item.key,
			words: item.label,
			chosen: item.key === splitKey(second),
			why: first ? undefined : "Choose a first split",
			pick: () => first && go([first, item.dimension]),
		}));
	const none = {
		key: "nothing more",
		words: "nothing more",
		chosen: !second,
		pick: () => go(first ? [first] : []),
	};
	const title = "And within that by";
	return <PickList label={title} height={330} picks={under(title, [none, ...inner])} />;
}

interface Chosen {
	label: string;
	condition: Condition;
}

interface SideProps {
	catalogue: Catalogue;
	choose: (splits: Dimension[]) => void;
}

const MOST_BESIDE = 6;

/** Up to six classes or saved groups against each other. */
function SideBySide({ catalogue, choose }: SideProps) {
	const [chosen, setChosen] = useState<Chosen[]>([]);
	const placed = (field: "class" | "school", all: Catalogue["schools"]) =>
		all.map((one): Chosen => ({ label: one.label, condition: { field, in: [one.id] } }));
	const options = [
		...catalogue.groups.map((one): Chosen => ({ label: one.name, condition: { set: one.id } })),
		...placed("class", catalogue.classes),
		...placed("school", catalogue.schools),
	];
	const held = (one: Chosen) => chosen.some((other) => other.label === one.label);
	const populations = chosen.map((one) => ({ label: one.label, who: { all: [one.condition] } }));
	return (
		<div>
			<p className="px-2 pt-2 pb-0.5 text-xs font-semibold text-muted">Or groups side by side</p>
			<PickList
				label="groups, classes and schools"
				height={220}
				picks={options.map((one) => ({
					key: JSON.stringify(one.condition),
					words: one.label,
					ticks: true,
					chosen: held(one),
					pick: () =>
						setChosen(
							held(one)
								? chosen.filter((other) => other.label !== one.label)
								: [...chosen, one].slice(0, MOST_BESIDE),
						),
				}))}
			/>
			<button
				type="button"
				className="btn btn-primary btn-sm mt-2"
				disabled={chosen.length === 0}
				onClick={() => choose([{ populations }])}
			>
				Compare {chosen.length || ""}
			</button>
		</div>
	);
}

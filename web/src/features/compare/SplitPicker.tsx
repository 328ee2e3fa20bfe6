import { useState } from "react";
import type { Catalogue, Condition, Dimension, Question } from "../../api/client";
import { Choice, Heading, Tick } from "./Choice";
import type { PickerProps } from "./MeasurePicker";
import {
	groupSplits,
	measureOf,
	measureOutside,
	partOf,
	plainOf,
	sittingOf,
	splitKey,
	splitsOf,
	withSplits,
} from "./question";

/** One thing to split by, or two; or chosen groups side by side. */
export function SplitPicker({ question, catalogue, ask, close }: PickerProps) {
	const [first, second] = groupSplits(question);
	const several = question.what.length > 1 || isEach(question);
	const choices = splitsOf(catalogue);
	const sitting = sittingOf(question, catalogue);
	const go = (splits: Dimension[]) => {
		ask(withSplits(question, splits));
		close();
	};
	return (
		<div className="grid grid-cols-3 gap-3">
			<div>
				<Heading>By</Heading>
				<Choice chosen={!first} words="nothing" pick={() => go([])} />
				{choices.map((item) => (
					<Choice
						key={item.key}
						chosen={item.key === splitKey(first)}
						words={item.label}
						pick={() =>
							go(
								second && splitKey(second) !== item.key
									? [item.dimension, second]
									: [item.dimension],
							)
						}
					/>
				))}
				{sitting && sitting.steps.length > 0 && (
					<Choice
						chosen={splitKey(first) === "level"}
						words="level"
						pick={() => go([{ level_of: measureOf(sitting) }])}
					/>
				)}
			</div>
			{several ? (
				<div>
					<Heading>Together with the measures</Heading>
					<Choice
						chosen={!measureOutside(question)}
						words="each group with its measures"
						why={first ? undefined : "Choose a split first"}
						pick={() => ask({ ...question, split: first ? [first] : [], sort: [] })}
					/>
					<Choice
						chosen={measureOutside(question)}
						words="each measure with its groups"
						why={first ? undefined : "Choose a split first"}
						pick={() => ask({ ...question, split: first ? ["measure", first] : [], sort: [] })}
					/>
				</div>
			) : (
				<div>
					<Heading>And within that by</Heading>
					<Choice chosen={!second} words="nothing more" pick={() => go(first ? [first] : [])} />
					{choices
						.filter((item) => item.key !== splitKey(first))
						.map((item) => (
							<Choice
								key={item.key}
								chosen={item.key === splitKey(second)}
								words={item.label}
								why={first ? undefined : "Choose a first split"}
								pick={() => first && go([first, item.dimension])}
							/>
						))}
				</div>
			)}
			<SideBySide catalogue={catalogue} choose={go} />
		</div>
	);
}

function isEach(question: Question): boolean {
	const plain = plainOf(question.what[0]);
	return plain.subject === "each" || partOf(plain)?.is === "each" || plain.sitting === "each";
}

interface Chosen {
	label: string;
	condition: Condition;
}

interface SideProps {
	catalogue: Catalogue;
	choose: (splits: Dimension[]) => void;
}

/** Up to six classes or saved groups against each other. */
function SideBySide({ catalogue, choose }: SideProps) {
	const [search, setSearch] = useState("");
	const [chosen, setChosen] = useState<Chosen[]>([]);
	const placed = (field: "class" | "school", all: Catalogue["schools"]) =>
		all.map((one): Chosen => ({ label: one.label, condition: { field, in: [one.id] } }));
	const options = [
		...catalogue.groups.map((one): Chosen => ({ label: one.name, condition: { set: one.id } })),
		...placed("class", catalogue.classes),
		...placed("school", catalogue.schools),
	].filter((one) => one.label.toLowerCase().includes(search.toLowerCase()));
	return (
		<div>
			<Heading>Or groups side by side</Heading>
			<input
				className="input input-sm mb-1 w-full"
				aria-label="Search groups, classes and schools"
				placeholder="Search"
				value={search}
				onChange={(event) => setSearch(event.target.value)}
			/>
			<div className="max-h-52 overflow-auto">
				{options.slice(0, 60).map((one) => (
					<Tick
						key={one.label}
						checked={chosen.some((held) => held.label === one.label)}
						words={one.label}
						change={() =>
							setChosen(
								chosen.some((held) => held.label === one.label)
									? chosen.filter((held) => held.label !== one.label)
									: [...chosen, one].slice(0, 6),
							)
						}
					/>
				))}
			</div>
			<button
				type="button"
				className="btn btn-primary btn-sm mt-2"
				disabled={chosen.length === 0}
				onClick={() =>
					choose([
						{
							populations: chosen.map((one) => ({
								label: one.label,
								who: { all: [one.condition] },
							})),
						},
					])
				}
			>
				Compare {chosen.length || ""}
			</button>
		</div>
	);
}

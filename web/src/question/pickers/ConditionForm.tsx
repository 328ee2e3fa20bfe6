import { useState } from "react";
import type { Catalogue, Condition, Question } from "../../api/client";
import { PickList } from "../../ui/PickList";
import { type Id, sittingOf } from "../model/question";
import { conditionOf, fieldsOf } from "../model/who";
import { MeasureCondition } from "./MeasureCondition";

interface Props {
	catalogue: Catalogue;
	question: Question;
	/** What the button says: “Narrow”, “Highlight” … */
	word: string;
	add: (condition: Condition) => void;
	/** By what it begins with: a score, unless something else is said. */
	by?: string;
}

/** One condition of any kind, put together and then added. */
export function ConditionForm({ catalogue, question, word, add, by = "score" }: Props) {
	const [about, setAbout] = useState(by);
	const fields = fieldsOf(catalogue);
	const field = fields.find((one) => one.key === about);
	return (
		<div className="space-y-2">
			<label className="block">
				<span className="text-xs font-semibold text-muted">By</span>
				<select
					className="select select-sm w-full"
					value={about}
					onChange={(event) => setAbout(event.target.value)}
				>
					<option value="score">a score, a level or a form</option>
					<option value="span">how far from where they started</option>
					<option value="band">starting band</option>
					{catalogue.groups.length > 0 && <option value="group">a saved group</option>}
					{fields.map((one) => (
						<option key={one.key} value={one.key}>
							{one.label}
						</option>
					))}
				</select>
			</label>
			{about === "score" && (
				<MeasureCondition {...{ catalogue, question, word, add }} key="score" />
			)}
			{about === "span" && (
				<MeasureCondition {...{ catalogue, question, word, add }} key="span" span />
			)}
			{about === "band" && <Band {...{ catalogue, question, word, add }} />}
			{about === "group" && (
				<Values
					word={word}
					label="saved groups"
					options={catalogue.groups.map((one) => ({ id: one.id, label: one.name }))}
					add={(ids) => add(anyOf(ids.map((id) => ({ set: id }))))}
				/>
			)}
			{field && (
				<Values
					key={field.key}
					word={word}
					label={field.label}
					options={field.options}
					add={(ids) => add(conditionOf(field.key, ids))}
				/>
			)}
		</div>
	);
}

const THIRDS = ["low", "middle", "high"] as const;

/** A condition alone as it is, several as alternatives. */
function anyOf(all: Condition[]): Condition {
	const [only, ...more] = all;
	return only && more.length === 0 ? only : { any: all };
}

interface ValuesProps<T extends Id> {
	word: string;
	label: string;
	options: { id: T; label: string }[];
	add: (ids: T[]) => void;
}

function Values<T extends Id>({ word, label, options, add }: ValuesProps<T>) {
	const [chosen, setChosen] = useState<T[]>([]);
	return (
		<>
			<PickList
				label={label}
				focus
				height={208}
				picks={options.map((option) => ({
					key: String(option.id),
					words: option.label,
					ticks: true,
					chosen: chosen.includes(option.id),
					pick: () =>
						setChosen(
							chosen.includes(option.id)
								? chosen.filter((one) => one !== option.id)
								: [...chosen, option.id],
						),
				}))}
			/>
			<button
				type="button"
				className="btn btn-primary btn-sm mt-2"
				disabled={!chosen.length}
				onClick={() => add(chosen)}
			>
				{word}
			</button>
		</>
	);
}

/** Thirds of the district by the score that students started with. */
function Band({ catalogue, question, word, add }: Props) {
	const sitting = sittingOf(question, catalogue);
	const before = catalogue.measures.find(
		(one) =>
			sitting &&
			one.assessment_id === sitting.assessment_id &&
			one.subject_id === sitting.subject_id &&
			one.date < sitting.date,
	);
	if (!sitting || !before)
		return <p className="text-muted">There is no earlier sitting of this test to band by.</p>;
	const measure = {
		assessment: before.assessment_id,
		subject: before.subject_id,
		sitting: before.sitting_id,
	};
	return (
		<>
			<p className="text-xs text-muted">Thirds of the district by {before.label}</p>
			<Values
				word={word}
				label="starting bands"
				options={THIRDS.map((id) => ({ id, label: `${id} start` }))}
				add={(ids) => add({ band: measure, in: ids })}
			/>
		</>
	);
}

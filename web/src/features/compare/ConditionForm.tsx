import { type FormEvent, useState } from "react";
import type { Catalogue, Condition, Question } from "../../api/client";
import { MeasureCondition } from "./MeasureCondition";
import { type Id, sittingOf } from "./question";
import { conditionOf, fieldsOf } from "./who";

interface Props {
	catalogue: Catalogue;
	question: Question;
	/** What the button says: “Narrow”, “Highlight” … */
	word: string;
	add: (condition: Condition) => void;
}

/** One condition of any kind, put together and then added. */
export function ConditionForm({ catalogue, question, word, add }: Props) {
	const [about, setAbout] = useState("score");
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
					options={catalogue.groups.map((one) => ({ id: one.id, label: one.name }))}
					add={(ids) => add(anyOf(ids.map((id) => ({ set: id }))))}
				/>
			)}
			{field && (
				<Values
					key={field.key}
					word={word}
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
	options: { id: T; label: string }[];
	add: (ids: T[]) => void;
}

function Values<T extends Id>({ word, options, add }: ValuesProps<T>) {
	const [chosen, setChosen] = useState<T[]>([]);
	function submit(event: FormEvent): void {
		event.preventDefault();
		if (chosen.length) add(chosen);
	}
	return (
		<form onSubmit={submit}>
			<div className="max-h-52 overflow-auto">
				{options.slice(0, 300).map((option) => (
					<label
						key={String(option.id)}
						className="flex items-baseline gap-2 rounded px-1 py-0.5 hover:bg-amber-wash"
					>
						<input
							type="checkbox"
							className="relative top-0.5 accent-(--color-ahead)"
							checked={chosen.includes(option.id)}
							onChange={() =>
								setChosen(
									chosen.includes(option.id)
										? chosen.filter((one) => one !== option.id)
										: [...chosen, option.id],
								)
							}
						/>
						{option.label}
					</label>
				))}
			</div>
			<button type="submit" className="btn btn-primary btn-sm mt-2" disabled={!chosen.length}>
				{word}
			</button>
		</form>
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
				options={THIRDS.map((id) => ({ id, label: `${id} start` }))}
				add={(ids) => add({ band: measure, in: ids })}
			/>
		</>
	);
}

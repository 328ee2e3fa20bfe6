import { useState } from "react";
import type { Schemas } from "../../api/client";

interface Props {
	doubles: Schemas["Double"][];
	/** How many there are in all; only the first are listed. */
	n: number;
	say: (name: string, choice: string | null) => void;
}

const AT_FIRST = 5;

/** Rows that contradict each other: of each double one row counts, or none. */
export function Doubles({ doubles, n, say }: Props) {
	const [all, setAll] = useState(false);
	const shown = all ? doubles : doubles.slice(0, AT_FIRST);
	return (
		<div className="mt-2 ml-[72px] text-[13px]">
			<ul aria-label="One by one">
				{shown.map((double) => (
					<li key={double.key} className="border-t border-line/60 py-1.5">
						<fieldset className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
							<legend className="float-left mr-4 font-semibold">
								{[double.person, double.key].filter(Boolean).join(", ")}
							</legend>
							{double.rows.map((row) => (
								<Way
									key={row.line}
									name={double.key}
									words={`line ${row.line}: ${row.says}`}
									on={double.chosen === String(row.line)}
									choose={() => say(double.key, String(row.line))}
								/>
							))}
							<Way
								name={double.key}
								words="none of them"
								on={double.chosen === "set_aside"}
								choose={() => say(double.key, "set_aside")}
							/>
							{double.chosen && (
								<button
									type="button"
									className="text-ahead hover:underline"
									aria-label={`by the rule: ${double.key}`}
									onClick={() => say(double.key, null)}
								>
									by the rule
								</button>
							)}
						</fieldset>
					</li>
				))}
			</ul>
			{doubles.length > AT_FIRST && !all && (
				<button
					type="button"
					className="font-semibold text-ahead hover:underline"
					onClick={() => setAll(true)}
				>
					Show all {doubles.length}
				</button>
			)}
			{n > doubles.length && (
				<p className="text-muted">
					The first {doubles.length} of {n} can be settled one by one; a rule settles all others.
				</p>
			)}
		</div>
	);
}

interface WayProps {
	name: string;
	words: string;
	on: boolean;
	choose: () => void;
}

function Way({ name, words, on, choose }: WayProps) {
	return (
		<label className="flex cursor-pointer items-center gap-1.5">
			<input
				type="radio"
				className="radio radio-xs"
				name={`double ${name}`}
				checked={on}
				onChange={choose}
			/>
			{words}
		</label>
	);
}

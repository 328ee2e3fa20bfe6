import { useState } from "react";
import { blankStep, type ScaleText, type StepText } from "./scale";

interface Props {
	scale: ScaleText;
	set: (part: Partial<ScaleText>) => void;
}

/** The steps from lowest to highest, with points, pass line, other spellings and cut scores. */
export function StepRows({ scale, set }: Props) {
	const change = (at: number, part: Partial<StepText>) =>
		set({ steps: scale.steps.map((step, n) => (n === at ? { ...step, ...part } : step)) });
	function move(at: number, by: number): void {
		const steps = [...scale.steps];
		const [step] = steps.splice(at, 1);
		if (step) steps.splice(at + by, 0, step);
		set({ steps });
	}
	return (
		<>
			<table className="text-left [&_td]:py-0.5 [&_td]:pr-3 [&_th]:pr-3">
				<thead>
					<tr className="border-b border-line text-[13px] text-muted">
						<th scope="col" className="font-semibold">
							Step
						</th>
						<th scope="col" className="font-semibold">
							Points
						</th>
						<th scope="col" className="font-semibold">
							Passes
						</th>
						<th scope="col" className="font-semibold">
							Also written
						</th>
						{scale.levels.map((level) => (
							<th key={level} scope="col" className="font-semibold">
								From, {level ? `Y${level}` : "all"}
							</th>
						))}
						<th scope="col">
							<span className="sr-only">Order</span>
						</th>
					</tr>
				</thead>
				<tbody>
					{scale.steps.map((step, at) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: a step's place is its name until it has one
						<tr key={at}>
							<td>
								<Cell
									label={`Step ${at + 1}`}
									value={step.name}
									save={(name) => change(at, { name })}
								/>
							</td>
							<td>
								<Cell
									label={`Points of step ${at + 1}`}
									value={step.points}
									narrow
									save={(points) => change(at, { points })}
								/>
							</td>
							<td>
								<input
									type="checkbox"
									className="checkbox checkbox-sm"
									aria-label={`Step ${at + 1} passes`}
									checked={step.passes}
									onChange={(event) => change(at, { passes: event.target.checked })}
								/>
							</td>
							<td>
								<Cell
									label={`Other spellings of step ${at + 1}, parted by bars`}
									value={step.synonyms}
									wide
									save={(synonyms) => change(at, { synonyms })}
								/>
							</td>
							{scale.levels.map((level) => (
								<td key={level}>
									<Cell
										label={`Lowest score of step ${at + 1}${level ? `, year ${level}` : ""}`}
										value={step.cuts[level] ?? ""}
										narrow
										save={(cut) => change(at, { cuts: { ...step.cuts, [level]: cut } })}
									/>
								</td>
							))}
							<td className="whitespace-nowrap">
								<Small
									label={`Move step ${at + 1} down the scale`}
									go={() => move(at, -1)}
									off={at === 0}
								>
									↑
								</Small>
								<Small
									label={`Move step ${at + 1} up the scale`}
									go={() => move(at, 1)}
									off={at === scale.steps.length - 1}
								>
									↓
								</Small>
								<Small
									label={`Remove step ${at + 1}`}
									go={() => set({ steps: scale.steps.filter((_, n) => n !== at) })}
								>
									Remove
								</Small>
							</td>
						</tr>
					))}
				</tbody>
			</table>
			<div className="mt-2 flex items-end gap-3">
				<button
					type="button"
					className="btn btn-outline btn-sm"
					onClick={() => set({ steps: [...scale.steps, blankStep()] })}
				>
					Add a step
				</button>
				<AddLevel scale={scale} set={set} />
			</div>
		</>
	);
}

/** A further column of cut scores, for one year level or for all. */
function AddLevel({ scale, set }: Props) {
	const [level, setLevel] = useState("");
	return (
		<>
			<label>
				<span className="block text-[13px] font-semibold">Cut scores of year</span>
				<input
					className="input input-sm w-24"
					value={level}
					placeholder="all"
					inputMode="numeric"
					onChange={(event) => setLevel(event.target.value.replace(/\D/g, ""))}
				/>
			</label>
			<button
				type="button"
				className="btn btn-outline btn-sm"
				disabled={scale.levels.includes(level)}
				onClick={() => set({ levels: [...scale.levels, level] })}
			>
				Add cut scores
			</button>
		</>
	);
}

interface CellProps {
	label: string;
	value: string;
	save: (text: string) => void;
	wide?: boolean;
	narrow?: boolean;
}

function Cell({ label, value, save, wide, narrow }: CellProps) {
	return (
		<input
			className={`input input-sm ${wide ? "w-40" : narrow ? "w-16" : "w-28"}`}
			aria-label={label}
			value={value}
			onChange={(event) => save(event.target.value)}
		/>
	);
}

interface SmallProps {
	label: string;
	go: () => void;
	off?: boolean;
	children: string;
}

function Small({ label, go, off = false, children }: SmallProps) {
	return (
		<button
			type="button"
			className="btn btn-ghost btn-xs"
			aria-label={label}
			disabled={off}
			onClick={go}
		>
			{children}
		</button>
	);
}

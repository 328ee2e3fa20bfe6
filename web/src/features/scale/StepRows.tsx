import { Fragment } from "react";
import { AddCuts, Cell, Cuts } from "./Cuts";
import { blankStep, nameOf, type ScaleText, type StepText } from "./scale";

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
			<div className="overflow-x-auto">
				<table className="text-left [&_th]:whitespace-nowrap [&_td]:py-0.5 [&_td]:pr-3 [&_th]:pr-3">
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
							{scale.sets.map((set) => (
								<Fragment key={nameOf(set)}>
									<th scope="col" className="border-l border-line pl-3 font-semibold">
										From, {nameOf(set)}
									</th>
									<th scope="col" className="font-semibold">
										Upper half
									</th>
									<th scope="col" className="font-semibold">
										Expected
									</th>
								</Fragment>
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
								{scale.sets.map((set, n) => (
									<Cuts
										key={nameOf(set)}
										step={step}
										of={`step ${at + 1}, ${nameOf(set)}`}
										set={n}
										save={(changed) => change(at, changed)}
									/>
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
			</div>
			<div className="mt-2 flex flex-wrap items-end gap-3">
				<button
					type="button"
					className="btn btn-outline btn-sm"
					onClick={() => set({ steps: [...scale.steps, blankStep()] })}
				>
					Add a step
				</button>
				<AddCuts scale={scale} set={set} />
			</div>
		</>
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

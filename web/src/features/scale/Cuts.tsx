import { useState } from "react";
import { yearLevel } from "../../lib/words";
import { type CutSet, cutOf, type ScaleText, type StepText, sameSet, withCut } from "./scale";

interface CutsProps {
	step: StepText;
	of: string;
	set: number;
	save: (step: StepText) => void;
}

/** Where a step begins in one set of cuts, where its upper half does, whether it is expected. */
export function Cuts({ step, of, set, save }: CutsProps) {
	const cut = cutOf(step, set);
	return (
		<>
			<td className="border-l border-line pl-3">
				<Cell
					label={`Lowest score of ${of}`}
					value={cut.from}
					narrow
					save={(from) => save(withCut(step, set, { from }))}
				/>
			</td>
			<td>
				<Cell
					label={`Upper half of ${of} from`}
					hint="middle"
					value={cut.upper}
					narrow
					save={(upper) => save(withCut(step, set, { upper }))}
				/>
			</td>
			<td>
				<input
					type="checkbox"
					className="checkbox checkbox-sm"
					aria-label={`Expected at that age: ${of}`}
					checked={cut.expected}
					onChange={(event) => save(withCut(step, set, { expected: event.target.checked }))}
				/>
			</td>
		</>
	);
}

interface AddProps {
	scale: ScaleText;
	set: (part: Partial<ScaleText>) => void;
}

/** Further cut scores: of one year level, form or school year, or of all. */
export function AddCuts({ scale, set }: AddProps) {
	const [made, setMade] = useState<CutSet>({ level: "", form: "", schoolYear: "" });
	const field = (label: string, key: keyof CutSet, hint: string) => (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<input
				className="input input-sm w-24"
				value={made[key]}
				placeholder={hint}
				onChange={(event) => setMade({ ...made, [key]: event.target.value.trim() })}
			/>
		</label>
	);
	const dated = made.schoolYear === "" || /^\d{4}-\d{2}$/.test(made.schoolYear);
	const levelled = /^\d*$/.test(made.level);
	return (
		<>
			{field(`Cut scores of ${yearLevel()}`, "level", "all")}
			{field("Form", "form", "all")}
			{field("School year", "schoolYear", "all")}
			<button
				type="button"
				className="btn btn-outline btn-sm"
				disabled={!dated || !levelled || scale.sets.some((one) => sameSet(one, made))}
				onClick={() => set({ sets: [...scale.sets, made] })}
			>
				Add cut scores
			</button>
			{!dated && <p className="text-muted">A school year is written like 2025-26.</p>}
		</>
	);
}

interface CellProps {
	label: string;
	value: string;
	save: (text: string) => void;
	hint?: string;
	wide?: boolean;
	narrow?: boolean;
}

export function Cell({ label, value, save, hint, wide, narrow }: CellProps) {
	return (
		<input
			className={`input input-sm ${wide ? "w-40" : narrow ? "w-16" : "w-28"}`}
			aria-label={label}
			placeholder={hint}
			value={value}
			onChange={(event) => save(event.target.value)}
		/>
	);
}

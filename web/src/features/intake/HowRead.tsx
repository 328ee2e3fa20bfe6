import type { DraftState, IntakeSettings } from "../../api/client";

interface Props {
	state: DraftState;
	save: (settings: IntakeSettings) => void;
}

const MARKS = [
	{ key: ",", label: "commas" },
	{ key: ";", label: "semicolons" },
	{ key: "tab", label: "tabs" },
	{ key: "|", label: "bars" },
];

/** How the file was read, and where a person says otherwise. */
export function HowRead({ state, save }: Props) {
	const settings = state.settings;
	const how = settings.reading;
	const text = state.read_as.includes(", ") && MARKS.some((m) => state.read_as.startsWith(m.label));
	function change(part: Partial<NonNullable<typeof how>>): void {
		const whole = { table: "", encoding: "", delimiter: "", header_line: null, header_lines: null };
		save({ ...settings, reading: { ...whole, lines: {}, ...how, ...part } });
	}
	return (
		<fieldset className="mb-4 flex flex-wrap items-end gap-3">
			<legend className="mb-1 text-[13px] text-muted">
				How the file was read: {state.read_as}
			</legend>
			{text && (
				<label>
					<span className="block text-[13px] font-semibold">Cells are parted by</span>
					<select
						className="select select-sm w-32"
						value={MARKS.find((m) => state.read_as.startsWith(m.label))?.key}
						onChange={(event) => change({ delimiter: event.target.value })}
					>
						{MARKS.map((mark) => (
							<option key={mark.key} value={mark.key}>
								{mark.label}
							</option>
						))}
					</select>
				</label>
			)}
		</fieldset>
	);
}

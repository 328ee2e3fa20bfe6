import type { DraftState, IntakeSettings } from "../../api/client";
import { TextField } from "./TextField";

interface Props {
	state: DraftState;
	save: (settings: IntakeSettings) => void;
}

const MANY = 6;
/** Kinds that a tracker's word may mean; more are said column by column. */
const KINDS = ["score:grade", "score:level", "score:raw", "score:percent", "score:scaled"];
const CLAIMS = ["predicted", "target", "ignore"];

/** Columns that are named alike, said at once: how the names are built, and what its words mean. */
export function ByPattern({ state, save }: Props) {
	const settings = state.settings;
	if (state.kind !== "results" || (state.columns.length < MANY && !settings.pattern)) return null;
	const worded = state.columns.filter((column) => column.word);
	const words = [...new Set(worded.map((column) => column.word))];
	const fits = state.columns.filter(
		(column) => column.word || column.why.includes("by the pattern"),
	).length;
	const roles = [...KINDS, ...CLAIMS].flatMap(
		(key) => state.roles.find((role) => role.key === key) ?? [],
	);
	return (
		<fieldset className="mb-4 flex flex-wrap items-end gap-3">
			<legend className="mb-1 text-[13px] text-muted">
				Columns named alike: {"{subject} {sitting} {kind}"}, in the order and with the signs that
				they have; also {"{test} {date} {form} {other}"}
			</legend>
			<TextField
				key={settings.pattern}
				label="Names are built like"
				width="w-72"
				hint="{subject} {sitting} {kind}"
				value={settings.pattern ?? ""}
				save={(pattern) => save({ ...settings, pattern: pattern.trim() })}
			/>
			{words.map((word) => (
				<label key={word}>
					<span className="block text-[13px] font-semibold">“{word}” is</span>
					<select
						className="select select-sm w-36"
						value={worded
							.find((column) => column.word === word)
							?.role.replace(/^(target):.*/, "$1")}
						onChange={(event) =>
							save({ ...settings, kinds: { ...settings.kinds, [word ?? ""]: event.target.value } })
						}
					>
						{roles.map((role) => (
							<option key={role.key} value={role.key}>
								{role.label}
							</option>
						))}
					</select>
				</label>
			))}
			{settings.pattern && (
				<p role="status" className="text-[13px] text-muted">
					{fits} of {state.columns.length} columns are named so.
				</p>
			)}
		</fieldset>
	);
}

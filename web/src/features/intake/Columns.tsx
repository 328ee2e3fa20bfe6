import type { DraftState, IntakeSettings, Schemas } from "../../api/client";
import { AboutColumn } from "./AboutColumn";
import { HowRead } from "./HowRead";
import { SaySame } from "./SaySame";
import { TextField } from "./TextField";

interface Props {
	state: DraftState;
	busy: boolean;
	save: (settings: IntakeSettings) => void;
}

/** What each column is taken for, on the user's own rows; every change takes effect at once. */
export function Columns({ state, busy, save }: Props) {
	const settings = state.settings;
	const results = state.kind === "results";
	function tell(column: Schemas["ColumnInfo"], about: NonNullable<typeof settings.about>[string]) {
		const name = `#${column.index + 1}`;
		// What was guessed of the other columns stays, for one that was told is told of.
		save({
			...settings,
			columns: { ...settings.columns, [name]: column.role },
			about: { ...settings.about, [name]: about },
		});
	}
	function role(column: Schemas["ColumnInfo"], value: string): void {
		const name = `#${column.index + 1}`;
		const { [name]: _, [column.header]: __, ...columns } = settings.columns ?? {};
		// A role that only one column can have is taken from the column that had it.
		const before = state.columns.find(
			(other) => other.role === value && value !== "ignore" && other.index !== column.index,
		);
		const freed = before ? { [`#${before.index + 1}`]: "ignore" } : {};
		if (before) delete columns[before.header];
		save({ ...settings, columns: { ...columns, ...freed, [name]: value } });
	}
	return (
		<>
			{state.problem && (
				<div role="alert" className="mb-4 rounded border border-behind/40 bg-behind-wash px-4 py-3">
					<p className="font-semibold text-behind">{state.problem.message}</p>
					<p>Nothing was changed. {state.problem.next_step}</p>
				</div>
			)}
			<HowRead state={state} save={save} />
			<Whole state={state} save={save} />
			<table className="w-full text-left" aria-busy={busy}>
				<thead>
					<tr className="border-b border-line text-[13px] text-muted">
						<th scope="col" className="py-1.5 font-semibold">
							Column in the file
						</th>
						<th scope="col" className="font-semibold">
							First values
						</th>
						<th scope="col" className="font-semibold">
							Is read as
						</th>
						{results && (
							<th scope="col" className="font-semibold">
								Of
							</th>
						)}
						<th scope="col" className="font-semibold">
							Why
						</th>
					</tr>
				</thead>
				<tbody>
					{state.columns.map((column) => (
						<tr key={column.index} className="border-b border-line/70">
							<th scope="row" className="py-1.5 font-semibold">
								{column.header}
							</th>
							<td className="max-w-[260px] truncate text-muted">{column.examples.join(" · ")}</td>
							<td>
								<select
									className="select select-sm w-48"
									aria-label={`${column.header} is`}
									value={plainRole(column.role)}
									onChange={(event) => role(column, event.target.value)}
								>
									{state.roles.map((choice) => (
										<option key={choice.key} value={choice.key}>
											{choice.label}
										</option>
									))}
								</select>
							</td>
							{results && (
								<td>
									<AboutColumn column={column} save={(about) => tell(column, about)} />
								</td>
							)}
							<td className={column.confident ? "text-muted" : "text-amber-ink"}>{column.why}</td>
						</tr>
					))}
				</tbody>
			</table>
			<SaySame key={JSON.stringify(settings)} state={state} />
		</>
	);
}

/** The role without the name that it may carry. */
function plainRole(role: string): string {
	return role.replace(/^(characteristic|strand|target):.*/, "$1");
}

const ROSTER_FIELDS = [
	{ key: "academic_year", label: "School year", type: "text", hint: "2025-26" },
	{ key: "as_of", label: "Holds from", type: "date", hint: "" },
] as const;
const RESULT_FIELDS = [
	{ key: "test", label: "Test", type: "text", hint: "the file's name" },
	{ key: "subject", label: "Subject", type: "text", hint: "none" },
	{ key: "sitting", label: "Sitting", type: "text", hint: "the school year" },
	{ key: "date", label: "Date", type: "date", hint: "" },
] as const;

/** What the file does not say itself, for the whole of it. */
function Whole({ state, save }: Pick<Props, "state" | "save">) {
	const settings = state.settings;
	const fields = state.kind === "roster" ? ROSTER_FIELDS : RESULT_FIELDS;
	return (
		<fieldset className="mb-4 flex flex-wrap gap-3">
			<legend className="mb-1 text-[13px] text-muted">
				For the whole file, where its columns do not say it
			</legend>
			{fields.map((field) => (
				<TextField
					key={field.key}
					label={field.label}
					type={field.type}
					hint={field.key === "test" && settings.together ? settings.together : field.hint}
					value={settings[field.key] ?? ""}
					save={(value) =>
						save({ ...settings, [field.key]: value || (field.type === "date" ? null : "") })
					}
				/>
			))}
			{state.kind === "results" && (
				<label>
					<span className="block text-[13px] font-semibold">Scores are</span>
					<select
						className="select select-sm w-36"
						value={settings.score ?? ""}
						onChange={(event) =>
							save({ ...settings, score: (event.target.value || null) as IntakeSettings["score"] })
						}
					>
						<option value="">as the column says</option>
						<option value="raw">raw marks</option>
						<option value="scaled">scaled scores</option>
						<option value="percent">percent</option>
					</select>
				</label>
			)}
		</fieldset>
	);
}

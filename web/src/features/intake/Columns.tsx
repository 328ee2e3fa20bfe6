import type { DraftState, IntakeSettings, Schemas } from "../../api/client";
import { capitalised, yearLevel } from "../../lib/words";
import { type Column, DataTable } from "../../ui/DataTable";
import { AboutColumn } from "./AboutColumn";
import { ByPattern } from "./ByPattern";
import { HowRead } from "./HowRead";
import { SaySame } from "./SaySame";
import { TextField } from "./TextField";
import { TopLines } from "./TopLines";

interface Props {
	state: DraftState;
	busy: boolean;
	save: (settings: IntakeSettings) => void;
}

/** What each column is taken for, on the user's own rows; every change takes effect at once. */
export function Columns({ state, busy, save }: Props) {
	const settings = state.settings;
	function tell(column: Info, about: About) {
		const name = `#${column.index + 1}`;
		// What was guessed of the other columns stays, for one that was told is told of.
		save({
			...settings,
			columns: { ...settings.columns, [name]: column.role },
			about: { ...settings.about, [name]: about },
		});
	}
	function role(column: Info, value: string): void {
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
			<TopLines state={state} save={save} />
			<Whole state={state} save={save} />
			<ByPattern state={state} save={save} />
			<div className="flex flex-col">
				<DataTable
					caption="What each column is taken for"
					busy={busy}
					rows={state.columns}
					keyOf={(column) => String(column.index)}
					columns={columns(state, role, tell)}
				/>
			</div>
			<SaySame key={JSON.stringify(settings)} state={state} />
		</>
	);
}

type Info = Schemas["ColumnInfo"];
type About = NonNullable<IntakeSettings["about"]>[string];

function columns(
	state: DraftState,
	role: (column: Info, value: string) => void,
	tell: (column: Info, about: About) => void,
): Column<Info>[] {
	const of: Column<Info> = {
		key: "of",
		label: "Of",
		side: "left",
		cell: (column) => <AboutColumn column={column} save={(about) => tell(column, about)} />,
	};
	return [
		{
			key: "header",
			label: "Column in the file",
			side: "left",
			className: "text-sm",
			cell: (column) => column.header,
		},
		{
			key: "first",
			label: "First values",
			side: "left",
			className: "max-w-[260px] truncate text-sm text-muted",
			cell: (column) => column.examples.join(" · "),
		},
		{
			key: "role",
			label: "Is read as",
			side: "left",
			cell: (column) => (
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
			),
		},
		...(state.kind === "results" ? [of] : []),
		{
			key: "why",
			label: "Why",
			side: "left",
			cell: (column) => (
				<span className={column.confident ? "text-muted" : "text-amber-ink"}>{column.why}</span>
			),
		},
	];
}

/** The role without the name that it may carry. */
function plainRole(role: string): string {
	return role.startsWith("score:") ? role : role.replace(/:.*/, "");
}

/** Called as the district calls it. */
const LEVEL = "year level";
const ROSTER_FIELDS = [
	{ key: "academic_year", label: "School year", type: "text", hint: "2025-26" },
	{ key: "as_of", label: "Holds from", type: "date", hint: "" },
	{ key: "school", label: "School", type: "text", hint: "as the column says" },
	{ key: "year_level", label: LEVEL, type: "text", hint: "as the column says" },
] as const;
const RESULT_FIELDS = [
	{ key: "test", label: "Test", type: "text", hint: "the file's name" },
	{ key: "subject", label: "Subject", type: "text", hint: "none" },
	{ key: "sitting", label: "Sitting", type: "text", hint: "the school year" },
	{ key: "date", label: "Date", type: "date", hint: "" },
	{ key: "year_level", label: LEVEL, type: "text", hint: "as the roster says" },
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
					label={field.label === LEVEL ? capitalised(yearLevel()) : field.label}
					type={field.type}
					hint={field.key === "test" && settings.together ? settings.together : field.hint}
					value={settings[field.key] ?? ""}
					save={(value) =>
						save({ ...settings, [field.key]: value || (field.type === "date" ? null : "") })
					}
				/>
			))}
			{state.kind !== "roster" && (
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
						{state.kind !== "results" && (
							<>
								<option value="level">levels</option>
								<option value="grade">grades</option>
							</>
						)}
					</select>
				</label>
			)}
		</fieldset>
	);
}

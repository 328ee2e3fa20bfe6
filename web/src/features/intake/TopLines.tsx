import type { DraftState, IntakeSettings, Schemas } from "../../api/client";

type TopRow = Schemas["TopRow"];
type Role = TopRow["role"];

interface Props {
	state: DraftState;
	save: (settings: IntakeSettings) => void;
}

const ROLES: { key: Role; label: string }[] = [
	{ key: "names", label: "column names" },
	{ key: "row", label: "a row" },
	{ key: "left_out", label: "left out" },
	{ key: "maximum", label: "maximum marks" },
	{ key: "topic", label: "topics" },
];
const NOTHING = { table: "", encoding: "", delimiter: "", header_line: null, header_lines: null };

/** What is said of the lines once one of them is said to be something else. */
export function linesSaid(top: TopRow[], line: number, role: Role): Record<string, Role> {
	const before = top.map((row) => row.role);
	const after = top.map((row) => (row.line === line ? role : row.role));
	const told = top.flatMap((row, at): [string, Role][] => {
		const now = after[at];
		const same = now === before[at] && (now === "row" || now === "left_out");
		return now === undefined || same ? [] : [[String(row.line), now]];
	});
	return Object.fromEntries(told);
}

/** The file's first lines as it has them; each is said to be what it is by pointing at it. */
export function TopLines({ state, save }: Props) {
	const settings = state.settings;
	const last = state.top.findLastIndex((row) => row.role !== "row");
	const top = state.top.slice(0, Math.max(last, 0) + 4);
	const width = Math.max(0, ...state.top.map((row) => row.cells.length));
	function say(line: number, role: Role): void {
		const lines = { ...settings.reading?.lines, ...linesSaid(state.top, line, role) };
		save({ ...settings, reading: { ...NOTHING, ...settings.reading, header_line: null, lines } });
	}
	return (
		<details className="mb-4" open={state.problem?.missing_role === "number"}>
			<summary className="cursor-pointer text-[13px] font-semibold">
				The file's first lines, and what each is taken for
			</summary>
			<div className="mt-1 overflow-x-auto">
				<table className="text-[13px]">
					<caption className="sr-only">The file's first lines</caption>
					<thead>
						<tr className="border-line border-b text-left text-muted">
							<th className="pr-3 font-normal">Line</th>
							<th className="pr-4 font-normal">Is</th>
							<th className="font-normal" colSpan={width}>
								Cells
							</th>
						</tr>
					</thead>
					<tbody>
						{top.map((row) => (
							<tr key={row.line} className="border-line/70 border-b">
								<th scope="row" className="pr-3 text-right font-normal text-muted tabular-nums">
									{row.line}
								</th>
								<td className="py-0.5 pr-4">
									<select
										className="select select-sm w-40"
										aria-label={`Line ${row.line} is`}
										value={row.role}
										onChange={(event) => {
											const chosen = ROLES.find((role) => role.key === event.target.value);
											if (chosen) say(row.line, chosen.key);
										}}
									>
										{ROLES.map((role) => (
											<option key={role.key} value={role.key}>
												{role.label}
											</option>
										))}
									</select>
								</td>
								{row.cells.map((cell, at) => (
									<td
										// biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place
										key={at}
										className={`max-w-32 truncate pr-4 whitespace-nowrap ${
											row.role === "names" ? "font-semibold" : ""
										} ${row.role === "left_out" ? "text-muted" : ""}`}
									>
										{cell}
									</td>
								))}
							</tr>
						))}
					</tbody>
				</table>
			</div>
		</details>
	);
}

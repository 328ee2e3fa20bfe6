import { useState } from "react";
import type { Answer, Schemas } from "../../api/client";
import { figure, range, signed } from "../../lib/numbers";

/** The numbers behind a lens that is no table itself. */
export function NumbersTable({ answer }: { answer: Answer }) {
	const body = answer.body;
	if (body.show === "levels") return <LevelNumbers body={body} reference={body.reference} />;
	if (body.show === "spread") return <SpreadNumbers body={body} />;
	if (body.show === "over_time") return <TimeNumbers body={body} />;
	if (body.show === "start_to_now") return <StartNumbers body={body} />;
	return null;
}

type Cells = (string | number | null | undefined)[];

function Plain({ heads, lines, caption }: { heads: string[]; lines: Cells[]; caption: string }) {
	return (
		<table className="w-full text-[13px]">
			<caption className="sr-only">{caption}</caption>
			<thead>
				<tr className="border-b border-line text-muted">
					{heads.map((head, at) => (
						<th
							key={head}
							scope="col"
							className={`px-1.5 py-1.5 align-bottom font-semibold ${at ? "text-right" : "text-left"}`}
						>
							{head}
						</th>
					))}
				</tr>
			</thead>
			<tbody>
				{lines.map(([name, ...cells], at) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: lines never move within one answer
					<tr key={`${name} ${at}`} className="border-b border-line/70">
						<th scope="row" className="px-1.5 py-1 text-left font-semibold">
							{name}
						</th>
						{cells.map((cell, column) => (
							<td key={heads[column + 1]} className="px-1.5 text-right whitespace-nowrap">
								{cell}
							</td>
						))}
					</tr>
				))}
			</tbody>
		</table>
	);
}

const MODES = ["counts", "shares", "this or better", "difference from the first row"] as const;
type Mode = (typeof MODES)[number];

interface LevelProps {
	body: Schemas["LevelsBody"];
	reference: Schemas["LevelsRow"][];
}

/** Counts, shares, “this step or better”, and the difference from the first row. */
function LevelNumbers({ body, reference }: LevelProps) {
	const [mode, setMode] = useState<Mode>("counts");
	const rows = [...reference, ...body.rows];
	const first = body.rows[0];
	const means = [...new Set(rows.flatMap((row) => Object.keys(row.means ?? {})))];
	function cells(row: Schemas["LevelsRow"]): Cells {
		return body.steps.map((_, at) => {
			if (mode === "shares") return percent(row.share[at]);
			if (mode === "this or better") return percent(row.at_or_above[at]);
			if (mode === "counts") return row.counts.length ? figure(row.counts[at], 0) : "";
			if (!row.counts.length || !first?.counts.length) return "";
			return signed((row.counts[at] ?? 0) - (first.counts[at] ?? 0), 0);
		});
	}
	return (
		<>
			<div className="no-print mb-1 flex gap-1 text-[13px]">
				{MODES.map((one) => (
					<button
						key={one}
						type="button"
						aria-pressed={mode === one}
						className={`rounded border px-2 py-0.5 ${mode === one ? "border-ink font-semibold" : "border-line text-muted"}`}
						onClick={() => setMode(one)}
					>
						{one}
					</button>
				))}
			</div>
			<Plain
				caption={`Levels, ${mode}`}
				heads={[
					body.dimension,
					"n",
					"missing",
					...body.steps.map((step) => step.name),
					"passed",
					"95% interval",
					"from the others, in points",
					...means.map((one) => `mean ${one}`),
				]}
				lines={rows.map((row) => [
					row.label,
					figure(row.n, 0),
					figure(row.missing, 0),
					...cells(row),
					percent(row.pass_share),
					row.pass_low == null || row.pass_high == null
						? ""
						: `${percent(row.pass_low)} to ${percent(row.pass_high)}`,
					row.others == null
						? ""
						: `${signed(row.others)} (${range(row.others_low, row.others_high)})`,
					...means.map((one) => figure(row.means?.[one])),
				])}
			/>
		</>
	);
}

function percent(share: number | null | undefined): string {
	return share == null ? "" : `${figure(100 * share, 0)}%`;
}

function SpreadNumbers({ body }: { body: Schemas["SpreadBody"] }) {
	return (
		<Plain
			caption="Distribution"
			heads={[
				body.dimension,
				"n",
				"missing",
				"lowest",
				"10th",
				"lower quarter",
				"median",
				"upper quarter",
				"90th",
				"highest",
				"mean",
				"sd",
			]}
			lines={body.curves.map((one) => [
				one.label,
				figure(one.n, 0),
				figure(one.missing, 0),
				...[
					one.minimum,
					one.p10,
					one.q1,
					one.median,
					one.q3,
					one.p90,
					one.maximum,
					one.mean,
					one.sd,
				].map((value) => figure(value)),
			])}
		/>
	);
}

const BESIDE: Record<string, string> = {
	ahead: "more than they did",
	behind: "less than they did",
	unclear: "cannot be told",
	few: "too few",
};

function TimeNumbers({ body }: { body: Schemas["TimeBody"] }) {
	return (
		<Plain
			caption={body.what}
			heads={[
				body.dimension,
				"sitting",
				"n",
				"missing",
				body.unit,
				"95% interval",
				"change",
				"its interval",
				"with both",
				"beside the others",
			]}
			lines={body.series.flatMap((one) =>
				one.points.map((point) => [
					one.label,
					point.label,
					figure(point.n, 0),
					figure(point.missing, 0),
					figure(point.value),
					range(point.low, point.high),
					signed(point.change),
					range(point.change_low, point.change_high),
					point.change_n ? figure(point.change_n, 0) : "",
					BESIDE[point.verdict ?? "none"] ?? "",
				]),
			)}
		/>
	);
}

function StartNumbers({ body }: { body: Schemas["StartBody"] }) {
	return (
		<Plain
			caption="What similar starters reach"
			heads={[
				"year level",
				"students behind the line",
				"lowest start",
				"expects",
				"highest start",
				"expects there",
			]}
			lines={body.lines.map((line) => [
				line.label,
				figure(line.n, 0),
				figure(line.x[0]),
				figure(line.y[0]),
				figure(line.x[line.x.length - 1]),
				figure(line.y[line.y.length - 1]),
			])}
		/>
	);
}

import type { Question, Schemas } from "../../api/client";
import { useWidth } from "../../charts/useWidth";
import { count, figure, percent } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { levelColour } from "../levels/layout";
import { chancesLayout, type Placed } from "./layout";

type Body = Schemas["ChancesBody"];

const NAME = 104;
const NOW = 70;
const PAST = 66;
const REACHED = 112;

/** The lens Chances: for each level what became of those who stood there before. */
export function Chances({ answer, question, ask, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "chances") return null;
	const wide = Math.max(160, width - NAME - NOW - PAST - REACHED - 60);
	const passAt = body.pass_at ?? null;
	const { rows, line } = chancesLayout(body.rows, passAt, wide);
	const template = [NAME, NOW, PAST, wide, REACHED].map((one) => `${one}px`).join(" ");
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow min-h-[300px]">
			<Later {...{ body, question, ask }} />
			<Legend body={body} />
			<div
				className="grid items-end gap-x-3 border-b border-line pb-1 text-xs leading-tight text-muted"
				style={{ gridTemplateColumns: template }}
			>
				<b>Stood at</b>
				<span className="text-right">now</span>
				<span className="text-right">before</span>
				<span>
					<b>Went on to</b>, in {body.later}
				</span>
				{passAt !== null && <b>{body.outcomes[passAt]?.name} or better</b>}
			</div>
			<ul>
				{rows.map((one) => (
					<li
						key={one.row.key}
						className="grid min-h-[38px] items-center gap-x-3"
						style={{ gridTemplateColumns: template }}
					>
						<span className="truncate px-1 text-[13px] font-semibold">{one.row.label}</span>
						<Now row={one.row} open={open} />
						<span className="text-right text-[13px] text-muted">
							{one.row.past == null ? "–" : figure(one.row.past, 0)}
						</span>
						<Bars {...{ one, body, line, wide }} />
						<Reached row={one.row} at={passAt} />
					</li>
				))}
			</ul>
			<p className="mt-2 text-xs text-muted">
				{body.cohorts.map((one) => `${one.before} → ${one.later}`).join(", ")}
			</p>
		</figure>
	);
}

interface LaterProps {
	body: Body;
	question: Question;
	ask: LensProps["ask"];
}

/** Which later test the chances are of, where there are several. */
function Later({ body, question, ask }: LaterProps) {
	const others = body.others ?? [];
	if (others.length < 2) return null;
	const asked = question.options?.later;
	const key = (one: Schemas["LaterOption"]) => `${one.assessment} ${one.subject ?? ""}`;
	const held = asked && typeof asked === "object" && "assessment" in asked ? asked : null;
	const now = held && `${held.assessment} ${"subject" in held ? (held.subject ?? "") : ""}`;
	return (
		<label className="no-print mb-2 flex items-center gap-2 text-[13px]">
			<span className="font-semibold">Went on to</span>
			<select
				className="select select-xs w-auto"
				value={now ?? key(others[0] ?? { assessment: 0, subject: null, label: "" })}
				onChange={(event) => {
					const chosen = others.find((one) => key(one) === event.target.value);
					if (!chosen) return;
					const { assessment, subject } = chosen;
					ask({ ...question, options: { later: { assessment, subject } } });
				}}
			>
				{others.map((one) => (
					<option key={key(one)} value={key(one)}>
						{one.label}
					</option>
				))}
			</select>
		</label>
	);
}

function Legend({ body }: { body: Body }) {
	const passAt = body.pass_at ?? null;
	return (
		<ul className="mb-1 flex flex-wrap gap-x-4 gap-y-1 text-xs" aria-label="Outcomes">
			{body.outcomes.map((outcome, at) => (
				<li key={outcome.name} className="flex items-center gap-1.5">
					<span
						className="inline-block h-3 w-3.5"
						style={{ background: levelColour(at, body.outcomes.length, passAt) }}
					/>
					{outcome.name}
				</li>
			))}
		</ul>
	);
}

function Now({ row, open }: { row: Schemas["ChancesRow"]; open: LensProps["open"] }) {
	const { opens } = row;
	if (!opens) return <span className="text-right text-[13px] text-muted">{row.n || "–"}</span>;
	return (
		<button
			type="button"
			className="text-right text-[13px] font-semibold text-ahead hover:underline"
			aria-label={`${count(row.n, "student")} who stand at ${row.label} now`}
			onClick={() => open(opens)}
		>
			{row.n}
		</button>
	);
}

interface BarsProps {
	one: Placed;
	body: Body;
	line: number;
	wide: number;
}

const WHY: Record<string, string> = {
	too_few: "◇ fewer than 30 before: no chances are told",
	one_cohort: "◇ one cohort alone: no chances are told",
};

/** The outcomes of one level around the line that passes; each says its name where it has room. */
function Bars({ one, body, line, wide }: BarsProps) {
	const { row, parts } = one;
	const passAt = body.pass_at ?? null;
	if (row.undefined) return <span className="text-xs text-muted">{WHY[row.undefined]}</span>;
	return (
		<span className="relative block h-[24px]" style={{ width: wide }}>
			{parts.map((part) => {
				const name = body.outcomes[part.outcome]?.name ?? "";
				const said = `${row.label}: ${percent(part.share)} got ${name} (95% interval ${percent(row.low?.[part.outcome])} to ${percent(row.high?.[part.outcome])})`;
				return (
					<span
						key={name}
						role="img"
						aria-label={said}
						title={said}
						className="absolute grid h-full place-items-center overflow-hidden border-r border-paper text-[11px]"
						style={{
							left: part.x,
							width: part.width,
							background: levelColour(part.outcome, parts.length, passAt),
						}}
					>
						{part.width > 40 && (
							<span className="rounded-sm bg-paper/80 px-0.5 whitespace-nowrap text-ink">
								{name} {percent(part.share)}
							</span>
						)}
					</span>
				);
			})}
			{passAt !== null && (
				<span
					className="absolute -inset-y-1.5 w-[1.5px] bg-ink"
					style={{ left: line }}
					aria-hidden="true"
				/>
			)}
		</span>
	);
}

function Reached({ row, at }: { row: Schemas["ChancesRow"]; at: number | null }) {
	if (at === null || !row.at_or_above?.length) return null;
	return (
		<span className="leading-tight">
			<b>
				{row.coarse ? "about " : ""}
				{percent(row.at_or_above[at])}
			</b>
			<span className="block text-[11px] text-muted">
				{percent(row.above_low?.[at])} to {percent(row.above_high?.[at])}
			</span>
		</span>
	);
}

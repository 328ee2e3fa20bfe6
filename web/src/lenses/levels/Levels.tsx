import type { Schemas } from "../../api/client";
import { AsOf } from "../../charts/AsOf";
import { Overview, overviewWidth } from "../../charts/Overview";
import { useWidth } from "../../charts/useWidth";
import { figure, percent } from "../../lib/numbers";
import { SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { FEW_ROWS, useRowsInView } from "../../ui/useRowsInView";
import { LEVEL_NAME, type LevelsLayout, levelColour, levelsLayout } from "./layout";

type Row = Schemas["LevelsRow"];
const ROW = 34;

const HEAD = 28;

/** Shares in each level, around the pass line. */
export function Levels({ answer, open }: LensProps) {
	const body = answer.body;
	if (body.show !== "levels") return null;
	return <AroundTheLine {...{ body, open }} label={answer.sentence} />;
}

interface AroundProps {
	/** Of levels, or of other words from the lowest up. */
	body: Pick<
		Schemas["LevelsBody"],
		"steps" | "pass_at" | "drawn" | "rows" | "reference" | "against"
	>;
	label: string;
	open: LensProps["open"];
}

/** Shares in each step around a line; a hatch below it, so that grey print reads. */
export function AroundTheLine({ body, label, open }: AroundProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const { reference, rows } = body;
	const passAt = body.pass_at ?? null;
	const beside = rows.length > FEW_ROWS && passAt !== null ? overviewWidth(rows) : 0;
	const layout = levelsLayout([...reference, ...rows], passAt, width - beside);
	const names = body.steps.map((step) => step.name);
	const shared = { layout, names, passAt, open, drawn: body.drawn, against: body.against ?? null };
	return (
		<figure
			ref={frame}
			aria-label={label}
			className="print-flow flex min-h-[300px] flex-1 flex-col"
		>
			<Legend names={names} passAt={passAt} against={body.against ?? null} />
			{passAt !== null && (
				<PassHeads line={layout.line} name={body.drawn ? (names[passAt] ?? "") : null} />
			)}
			<ul style={{ width: width - beside }}>
				{layout.rows.slice(0, reference.length).map((item) => (
					<li key={item.row.key}>
						<LevelRow {...{ item, ...shared }} pinned inner={false} />
					</li>
				))}
			</ul>
			<Many items={layout.rows.slice(reference.length)} {...shared} />
			<Axis layout={layout} width={width - beside} />
		</figure>
	);
}

/** What lies on either side of the line; `name`: the step where the question draws it. */
function PassHeads({ line, name }: { line: number; name: string | null }) {
	return (
		<p className="relative h-4 text-xs font-semibold" aria-hidden="true">
			<span className="absolute -translate-x-full pr-2 text-behind" style={{ left: line }}>
				◂ below {name === null ? "the pass line" : `“${name}”`}
			</span>
			<span className="absolute pl-2 text-ahead" style={{ left: line }}>
				{name === null ? "passed" : `“${name}” or better`} ▸
			</span>
		</p>
	);
}

type Item = LevelsLayout["rows"][number];

interface ManyProps extends Omit<RowProps, "item" | "pinned" | "inner"> {
	items: Item[];
}

function outerOf(item: Item | undefined): string {
	const path = item?.row.path ?? [];
	return path.length > 1 ? (path[0]?.label ?? "") : "";
}

/** The rows in view; beside very many, all of them at a glance. */
function Many({ items, ...shared }: ManyProps) {
	const headed = (at: number) =>
		outerOf(items[at]) !== "" && outerOf(items[at]) !== outerOf(items[at - 1]);
	const view = useRowsInView(items.length, (at) => ROW + (headed(at) ? HEAD : 0));
	const many = items.length > FEW_ROWS;
	return (
		<div className={`print-flow flex min-h-0 ${many ? "flex-1" : "flex-initial"}`}>
			<div ref={view.frame} className="print-flow min-h-0 min-w-0 flex-1 overflow-auto">
				<ul style={{ paddingTop: view.before, paddingBottom: view.after }}>
					{view.rows.map((at) => {
						const item = items[at];
						if (!item) return null;
						return (
							<li
								key={item.row.key}
								data-index={at}
								aria-posinset={at + 1}
								aria-setsize={items.length}
							>
								{headed(at) && (
									<p className="flex items-end text-[13px] font-bold" style={{ height: HEAD }}>
										{outerOf(item)}
									</p>
								)}
								<LevelRow {...{ item, ...shared }} pinned={false} inner={outerOf(item) !== ""} />
							</li>
						);
					})}
				</ul>
			</div>
			{many && shared.passAt !== null && (
				<Overview
					rows={items.map(({ row }) => ({
						key: row.key,
						label: row.label,
						value: row.pass_share ?? null,
						verdict: row.verdict ?? "none",
					}))}
					first={view.first}
					last={view.last}
					jump={view.jump}
				/>
			)}
		</div>
	);
}

interface LegendProps {
	names: string[];
	passAt: number | null;
	against: string | null;
}

function Legend({ names, passAt, against }: LegendProps) {
	return (
		<ul className="mb-1 flex flex-wrap gap-x-4 gap-y-1 text-xs" aria-label="Levels">
			{names.map((name, step) => (
				<li key={name} className="flex items-center gap-1.5">
					<svg width="14" height="12" aria-hidden="true">
						<Hatch />
						<rect width="14" height="12" fill={levelColour(step, names.length, passAt)} />
						{passAt !== null && step < passAt && (
							<rect width="14" height="12" fill="url(#below-line)" />
						)}
					</svg>
					{name}
				</li>
			))}
			{against && passAt !== null && (
				<li className="flex items-center gap-1.5">
					<span className="h-3.5 w-1 bg-ink" aria-hidden="true" />
					where {against} would end
				</li>
			)}
		</ul>
	);
}

function Hatch() {
	return (
		<defs>
			<pattern
				id="below-line"
				width="5"
				height="5"
				patternUnits="userSpaceOnUse"
				patternTransform="rotate(45)"
			>
				<path d="M0 0V5" stroke="var(--color-paper)" strokeWidth="1.500" />
			</pattern>
		</defs>
	);
}

interface RowProps {
	item: Item;
	layout: LevelsLayout;
	names: string[];
	passAt: number | null;
	pinned: boolean;
	inner: boolean;
	/** The line is drawn where the question says, not where the scale does. */
	drawn: boolean;
	/** Whose shares stand as a mark on the bars, in words. */
	against: string | null;
	open: LensProps["open"];
}

function LevelRow({ item, layout, names, passAt, pinned, inner, drawn, against, open }: RowProps) {
	const { row, bars } = item;
	const label = inner ? (row.path?.[1]?.label ?? row.label) : row.label;
	return (
		<div
			className={`relative flex items-center rounded ${pinned ? "bg-ink/[0.045]" : ""}`}
			style={{ height: ROW }}
		>
			<span
				className={`truncate px-1 ${pinned ? "font-bold" : "font-semibold"} ${inner ? "pl-4" : ""}`}
				style={{ width: LEVEL_NAME - 44 }}
				title={meansOf(row)}
			>
				{label}
				<span className="sr-only"> {meansOf(row)}</span>
				<AsOf day={row.as_of} />
			</span>
			<span className="w-9 text-right text-[13px] text-muted">{row.n ? figure(row.n, 0) : ""}</span>
			{bars.map((bar) => (
				<Bar key={names[bar.step]} {...{ bar, row, names, passAt, open }} />
			))}
			<svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
				<path d={`M${layout.line} 0V${ROW}`} stroke="var(--color-ink)" strokeWidth="1.500" />
			</svg>
			<ByYardstick {...{ row, layout, passAt, against }} />
			<PassShare {...{ row, passAt, drawn }} />
		</div>
	);
}

interface ByYardstickProps {
	row: Row;
	layout: LevelsLayout;
	passAt: number | null;
	against: string | null;
}

/** Where the bar would end, did the share that the yardstick says reach the line. */
function ByYardstick({ row, layout, passAt, against }: ByYardstickProps) {
	const share = passAt === null ? null : row.by_yardstick?.[passAt];
	if (share == null || !against) return null;
	const words = `${against}: ${percent(share)}`;
	return (
		<span
			role="img"
			aria-label={words}
			title={words}
			className="absolute w-1 bg-ink outline outline-paper"
			style={{ left: layout.at(share) - 2, top: 2, height: ROW - 4 }}
		/>
	);
}

const MEANS: Record<string, [string, string]> = {
	scaled: ["mean scaled score ", ""],
	raw: ["mean raw mark ", ""],
	percent: ["mean ", "%"],
	mastered: ["standards mastered ", "%"],
};

/** Further figures of the same sitting, in words. */
function meansOf(row: Row): string {
	return Object.entries(row.means ?? {})
		.filter(([, value]) => value != null)
		.map(([score, value]) => {
			const [before, after] = MEANS[score] ?? [`${score} `, ""];
			return `${before}${figure(value)}${after}`;
		})
		.join(" · ");
}

interface BarProps {
	bar: LevelsLayout["rows"][number]["bars"][number];
	row: Row;
	names: string[];
	passAt: number | null;
	open: LensProps["open"];
}

/** One level of one row: a button where its students may be opened. */
function Bar({ bar, row, names, passAt, open }: BarProps) {
	const name = names[bar.step] ?? "";
	const words = `${row.label}, ${name}: ${bar.count === null ? "" : `${bar.count} of ${row.n}, `}${figure(100 * bar.share, 0)}%`;
	const content = (
		<svg className="size-full" aria-hidden="true">
			<rect width="100%" height="100%" fill={levelColour(bar.step, names.length, passAt)} />
			{!bar.passes && passAt !== null && (
				<rect width="100%" height="100%" fill="url(#below-line)" />
			)}
		</svg>
	);
	const style = { left: bar.x, width: bar.width, top: 5, height: ROW - 10 };
	const label = bar.width > 26 && bar.share > 0 && (
		<span className="pointer-events-none absolute inset-0 grid place-items-center text-[11px] leading-none text-ink">
			<span className="rounded-sm bg-paper/80 px-0.5 py-px">
				{bar.count === null ? percent(bar.share) : figure(bar.count, 0)}
			</span>
		</span>
	);
	const mark = row.bars?.[bar.step]?.opens;
	if (!mark)
		return (
			<span className="absolute block" style={style} title={words}>
				{content}
				{label}
			</span>
		);
	return (
		<button
			type="button"
			className="absolute block hover:brightness-95"
			style={style}
			title={words}
			aria-label={words}
			onClick={() => open(mark)}
		>
			{content}
			{label}
		</button>
	);
}

function PassShare({ row, passAt, drawn }: Pick<RowProps, "passAt" | "drawn"> & { row: Row }) {
	if (row.undefined) return <span className="ml-auto text-xs text-muted">◇ too few</span>;
	if (passAt === null || row.pass_share == null) return null;
	const interval =
		row.pass_low != null && row.pass_high != null
			? `${figure(100 * row.pass_low, 0)} to ${figure(100 * row.pass_high, 0)}`
			: "";
	return (
		<span className="ml-auto pr-1 text-right leading-tight">
			<span className="font-bold">{figure(100 * row.pass_share, 0)}%</span>
			<Beside row={row} />
			<span className="sr-only"> {drawn ? "reached the line" : "passed"}</span>
			{interval && (
				<span className="block text-[11px] text-muted">
					<span className="sr-only">95% interval </span>
					{interval}
				</span>
			)}
		</span>
	);
}

/** How the share stands to the others', where it is told from chance. */
function Beside({ row }: { row: Row }) {
	const verdict = row.verdict ?? "none";
	if (verdict !== "ahead" && verdict !== "behind") return null;
	const way = verdict === "ahead" ? "above" : "below";
	const whom = row.span == null ? "the others" : "similar starters";
	const words = `${way} ${whom} by more than chance would give`;
	return (
		<span className={`ml-1 ${tone(verdict)}`} title={words}>
			<span aria-hidden="true">{SYMBOL[verdict]}</span>
			<span className="sr-only">, {words}</span>
		</span>
	);
}

function Axis({ layout, width }: { layout: LevelsLayout; width: number }) {
	return (
		<svg width={width} height="22" aria-hidden="true" className="shrink-0">
			<path d={`M${layout.left} 0.500H${layout.right}`} stroke="var(--color-line)" />
			{layout.ticks.map((tick) => (
				<text
					key={tick.x}
					x={tick.x}
					y="16"
					textAnchor="middle"
					fontSize="12"
					fill="var(--color-muted)"
				>
					{tick.label}
				</text>
			))}
		</svg>
	);
}

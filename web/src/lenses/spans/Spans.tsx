import type { Answer, Row } from "../../api/client";
import { AsOf } from "../../charts/AsOf";
import { Overview, overviewWidth } from "../../charts/Overview";
import { decimalsOf } from "../../charts/scale";
import { useWidth } from "../../charts/useWidth";
import { figure, range, signed } from "../../lib/numbers";
import { colour, meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { FEW_ROWS, useRowsInView } from "../../ui/useRowsInView";
import { HEAD, NAME_WIDTH, ROW, type SpanMark, type SpansLayout, spansLayout } from "./layout";

/** The house chart: each row's distance from the yardstick, with its interval. */
export function Spans({ answer, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	if (answer.body.show !== "spans") return null;
	const { reference, rows } = answer.body;
	const against = Boolean(answer.question.against);
	const beside = rows.length > FEW_ROWS ? overviewWidth(rows) : 0;
	const layout = spansLayout([...reference, ...rows], against, width - beside);
	const pinned = layout.marks.slice(0, reference.length);
	const rest = layout.marks.slice(reference.length);
	const plain = answer.measures[0]?.unit ?? "";
	const unit = against && plain === "%" ? "percentage points" : plain;
	const shared = { layout, against, unit, open };
	return (
		<figure
			ref={frame}
			aria-label={answer.sentence}
			className="print-flow flex min-h-[300px] flex-1 flex-col"
		>
			{against && layout.origin !== null && (
				<Heads layout={layout} against={answer.slots.against} kind={yardstick(answer)} />
			)}
			<div style={{ width: width - beside }}>
				<Rows marks={pinned} {...shared} offset={0} />
			</div>
			<Many marks={rest} {...shared} />
			<Axis layout={layout} width={width - beside} against={against} />
			<figcaption
				className="pt-1 text-center text-xs text-muted"
				style={{ paddingLeft: NAME_WIDTH - 80 }}
			>
				{against ? `${unit} from ${answer.slots.against}` : unit} · band shows 95% interval
				{answer.question.focus && " · diamond: those in focus"}
			</figcaption>
		</figure>
	);
}

/** The rows in view; beside very many, all of them at a glance. */
function Many({ marks, ...shared }: Omit<RowsProps, "offset" | "of">) {
	const view = useRowsInView(marks.length, (at) => ROW + (marks[at]?.head ? HEAD : 0));
	const shown = view.rows.map((at) => marks[at]).filter((mark) => mark !== undefined);
	const top = shown[0] ? shown[0].y - ROW / 2 - (shown[0].head ? HEAD : 0) : 0;
	return (
		<div
			className={`print-flow mt-1.5 flex min-h-0 ${marks.length > FEW_ROWS ? "flex-1" : "flex-initial"}`}
		>
			<div ref={view.frame} className="print-flow min-h-0 min-w-0 flex-1 overflow-auto">
				<div style={{ height: view.before }} />
				<Rows
					marks={shown}
					{...shared}
					offset={top}
					of={{ first: view.rows[0] ?? 0, all: marks.length }}
				/>
				<div style={{ height: view.after }} />
			</div>
			{marks.length > FEW_ROWS && (
				<Overview
					rows={marks.map(({ row }) => ({
						key: row.key,
						label: row.label,
						value: (shared.against ? row.span : row.value) ?? null,
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

function yardstick(answer: Answer): string {
	return Object.keys(answer.question.against ?? {})[0] ?? "";
}

interface HeadsProps {
	layout: SpansLayout;
	against: string;
	kind: string;
}

/** What the origin stands for, and what lies on either side. */
function Heads({ layout, against, kind }: HeadsProps) {
	const x = layout.origin ?? 0;
	const whom = kind === "prior" ? "similar starters" : against;
	const middle = kind === "prior" ? "where they started would predict" : against;
	const sides = kind === "earlier" ? ["lower than", "higher than"] : ["behind", "ahead of"];
	return (
		<div className="relative h-9 text-xs" aria-hidden="true">
			<span className="absolute -translate-x-1/2 font-semibold" style={{ left: x }}>
				{middle}
			</span>
			<span className="absolute top-4 -translate-x-full pr-6 text-behind" style={{ left: x }}>
				◂ {sides[0]} {whom}
			</span>
			<span className="absolute top-4 pl-6 text-ahead" style={{ left: x }}>
				{sides[1]} {whom} ▸
			</span>
		</div>
	);
}

interface RowsProps {
	marks: SpanMark[];
	layout: SpansLayout;
	against: boolean;
	unit: string;
	open: LensProps["open"];
	/** Where the first of the rows begins. */
	offset: number;
	/** Which of how many rows these are. */
	of?: { first: number; all: number };
}

function Rows({ marks, layout, against, unit, open, offset, of }: RowsProps) {
	const height = marks.length ? (marks[marks.length - 1]?.y ?? 0) - offset + ROW / 2 : 0;
	return (
		<ul className="relative">
			<svg className="absolute inset-0 size-full" aria-hidden="true">
				{layout.ticks.map((tick) => (
					<path key={tick.value} d={`M${tick.at} 0V${height}`} stroke="var(--color-line)" />
				))}
				{layout.origin !== null && (
					<path
						d={`M${layout.origin} 0V${height}`}
						stroke="var(--color-neither)"
						strokeWidth="1.5"
					/>
				)}
				{marks.map((mark) => (
					<Span key={mark.row.key} mark={mark} y={mark.y - offset} />
				))}
			</svg>
			{marks.map((mark, n) => (
				<li
					key={mark.row.key}
					data-index={of && of.first + n}
					aria-posinset={of && of.first + n + 1}
					aria-setsize={of?.all}
				>
					{mark.head && (
						<p className="flex items-end px-1 font-bold" style={{ height: HEAD }}>
							{mark.head}
						</p>
					)}
					<div className="relative" style={{ height: ROW }}>
						<Label row={mark.row} {...{ against, unit, open }} inner={mark.inner} />
					</div>
				</li>
			))}
		</ul>
	);
}

function Span({ mark, y }: { mark: SpanMark; y: number }) {
	if (mark.to === null) return null;
	const paint = colour(mark.row.verdict ?? "none");
	const hollow = mark.row.verdict === "unclear" || mark.row.verdict === "few";
	return (
		<g>
			{mark.low !== null && mark.high !== null && (
				<rect
					x={mark.low}
					y={y - 5}
					width={Math.max(mark.high - mark.low, 1)}
					height="10"
					rx="5"
					fill={paint}
					opacity="0.3"
				/>
			)}
			{mark.from !== null && (
				<>
					<path d={`M${mark.from} ${y}H${mark.to}`} stroke={paint} strokeWidth="3" />
					<circle
						cx={mark.from}
						cy={y}
						r="3.500"
						fill="var(--color-paper)"
						stroke="var(--color-neither)"
						strokeWidth="1.5"
					/>
				</>
			)}
			<circle
				cx={mark.to}
				cy={y}
				r="5.500"
				fill={hollow ? "var(--color-paper)" : paint}
				stroke={paint}
				strokeWidth="2"
			/>
			{mark.focus !== null && (
				<path
					d={`M${mark.focus} ${y - 6}l5 6l-5 6l-5 -6Z`}
					fill="var(--color-amber)"
					stroke="var(--color-ink)"
				/>
			)}
		</g>
	);
}

interface LabelProps {
	row: Row;
	against: boolean;
	unit: string;
	open: LensProps["open"];
	inner: boolean;
}

/** One row's words; the whole row is a button where its students may be opened. */
function Label({ row, against, unit, open, inner }: LabelProps) {
	const verdict = row.verdict ?? "none";
	const share = !against && unit === "%" && row.value !== null ? "%" : "";
	const value = (against ? signed(row.span) : figure(row.value)) + share;
	const { pinned, opens } = row;
	const name = inner ? (row.path?.[row.path.length - 1]?.label ?? row.label) : row.label;
	const interval = range(row.low, row.high);
	const words = (
		<>
			<span className={`truncate ${pinned ? "font-bold" : "font-semibold"} ${inner ? "pl-3" : ""}`}>
				{name}
				{inner && <span className="sr-only">, {row.label}</span>}
				<AsOf day={row.as_of} />
			</span>
			<span className="text-right text-[13px] text-muted">
				{figure(row.n, 0)}
				<span className="sr-only"> counted, {row.missing} missing, </span>
			</span>
			<span />
			<span className={`text-right font-bold whitespace-nowrap ${tone(verdict)}`}>
				{row.rank && (
					<span className="mr-2 text-[11px] font-normal text-muted">
						rank {row.rank[1]} to {row.rank[2]}
					</span>
				)}
				{value || (
					<span className="text-xs font-normal">{row.key === "nation" ? "" : "too few"}</span>
				)}
				<span className="ml-2 inline-block w-3" aria-hidden="true">
					{SYMBOL[verdict]}
				</span>
				<span className="sr-only">
					{meaning(row) && `, ${meaning(row)}`}
					{interval && `, 95% interval ${interval}`}
				</span>
			</span>
		</>
	);
	const shape =
		"absolute inset-x-0 inset-y-px grid w-full grid-cols-[122px_46px_1fr_auto] items-center gap-1 rounded px-1 text-left";
	if (!opens) return <div className={`${shape} ${pinned ? "bg-ink/[0.045]" : ""}`}>{words}</div>;
	const hint = [
		interval && `95% interval ${interval}`,
		`${row.n} counted, ${row.missing} missing`,
		meaning(row),
	];
	return (
		<button
			type="button"
			className={`${shape} hover:bg-amber/10`}
			title={hint.filter(Boolean).join(" · ")}
			onClick={() => open(opens)}
		>
			{words}
		</button>
	);
}

function Axis({
	layout,
	width,
	against,
}: {
	layout: SpansLayout;
	width: number;
	against: boolean;
}) {
	const decimals = decimalsOf((layout.ticks[1]?.value ?? 1) - (layout.ticks[0]?.value ?? 0));
	return (
		<svg width={width} height="22" aria-hidden="true" className="shrink-0">
			<path d={`M${layout.left} 0.500H${layout.right}`} stroke="var(--color-line)" />
			{layout.ticks.map((tick) => (
				<text
					key={tick.value}
					x={tick.at}
					y="16"
					textAnchor="middle"
					fontSize="12"
					fill="var(--color-muted)"
				>
					{against && tick.value !== 0
						? signed(tick.value, decimals)
						: figure(tick.value, decimals)}
				</text>
			))}
		</svg>
	);
}

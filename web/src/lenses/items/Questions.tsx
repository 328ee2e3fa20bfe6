import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/useWidth";
import { count, figure, range, signed } from "../../lib/numbers";
import { colour, meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { Controls } from "./Controls";
import { Looked } from "./Looked";
import {
	DRAWN,
	type Item,
	type ItemsLayout,
	inFront,
	itemsLayout,
	NAME_WIDTH,
	ROW,
	type RowLayout,
} from "./layout";
import { GroupShape, NationRing, RestLine } from "./marks";
import { Beside, shownPaired } from "./Paired";

type Body = Schemas["ItemsBody"];

/** The lens Questions: the share of each question's marks, group beside group and beside the rest. */
export function Questions({ answer, question, look, setLook, ask, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	if (answer.body.show !== "items") return null;
	const body = answer.body;
	const front = inFront(body, look.view);
	const layout = itemsLayout(body, front, width);
	const closer = (row: string | undefined, by = body.by) =>
		ask({
			...question,
			options: {
				by,
				order: body.order,
				...(body.only ? { only: body.only } : {}),
				...(row ? { look: row } : {}),
			},
		});
	return (
		<>
			<Controls {...{ answer, body, front, question, ask, open }} />
			<figure ref={frame} aria-label={answer.sentence} className="print-flow min-h-[300px]">
				<Heads {...{ body, front, layout }} />
				<ul className="relative" style={{ height: layout.height }}>
					<svg className="absolute inset-0 size-full" aria-hidden="true">
						{layout.ticks.map((tick) => (
							<path
								key={tick.value}
								d={`M${tick.at} 0V${layout.height}`}
								stroke="var(--color-line)"
							/>
						))}
						{layout.origin !== null && (
							<path
								d={`M${layout.origin} 0V${layout.height}`}
								stroke="var(--color-neither)"
								strokeWidth="1.5"
							/>
						)}
						{layout.rows.map((row) => (
							<Drawn key={row.item.key} row={row} front={front} />
						))}
					</svg>
					{layout.rows.map((row) => (
						<li key={row.item.key} style={{ height: ROW }} className="relative">
							<Words {...{ body, front, closer }} item={row.item} />
						</li>
					))}
				</ul>
				<Axis layout={layout} width={width} />
				<Legend {...{ body, front, layout }} choose={(view) => setLook({ view })} />
				<Uneven body={body} open={open} />
			</figure>
			<Looked
				{...{ answer, body, front, open }}
				look={(row) => closer(row, "question")}
				only={(only) => ask({ ...question, options: { by: "question", order: body.order, only } })}
				there={(one) =>
					ask({
						...question,
						what: [one.asked],
						options: { by: "question", order: body.order, look: one.question },
					})
				}
			/>
		</>
	);
}

/** Of two papers, who is far better on one of them: a list in one click. */
function Uneven({ body, open }: { body: Body; open: LensProps["open"] }) {
	return (
		<ul className="mt-2 text-[13px]">
			{(body.uneven ?? []).map((one) => (
				<li key={one.better}>
					Far better on {one.better} than on {one.worse}:{" "}
					<button
						type="button"
						className="font-semibold text-ahead hover:underline"
						onClick={() => one.opens && open(one.opens)}
					>
						{count(one.n, "student")}
					</button>
				</li>
			))}
		</ul>
	);
}

interface HeadsProps {
	body: Body;
	front: number;
	layout: ItemsLayout;
}

function Heads({ body, front, layout }: HeadsProps) {
	const mine = body.groups[front]?.label ?? "";
	return (
		<div className="relative h-6 text-xs font-semibold text-muted" aria-hidden="true">
			<span className="absolute left-1">{body.by}</span>
			<span className="absolute text-right" style={{ left: NAME_WIDTH - 60, width: 48 }}>
				marks
			</span>
			<span className="absolute" style={{ left: NAME_WIDTH }}>
				share of its marks, %
			</span>
			{layout.origin !== null && (
				<span
					className="absolute -translate-x-1/2 whitespace-nowrap"
					style={{ left: layout.origin }}
				>
					{mine} beside {body.against}
				</span>
			)}
		</div>
	);
}

/** The marks of a row; a line leads from the rest to the group in front. */
function Drawn({ row, front }: { row: RowLayout; front: number }) {
	const verdict = row.item.beside?.[front]?.verdict ?? "none";
	const paint = colour(verdict);
	const mine = row.marks.find((mark) => mark.group === front);
	return (
		<g>
			{row.rest !== null && mine && (
				<path d={`M${row.rest} ${row.y}H${mine.at}`} stroke={paint} strokeWidth="3" />
			)}
			{row.rest !== null && <RestLine x={row.rest} y={row.y} />}
			{row.nation !== null && <NationRing x={row.nation} y={row.y} />}
			{row.paired.map((mark) => (
				<GroupShape key={mark.shape} shape={mark.shape} x={mark.at} y={row.y} paint={paint} />
			))}
			{[...row.marks].reverse().map((mark) => (
				<GroupShape key={mark.group} shape={mark.shape} x={mark.at} y={row.y} paint={paint} />
			))}
			{row.low !== null && row.high !== null && (
				<rect
					x={row.low}
					y={row.y - 5}
					width={Math.max(row.high - row.low, 1)}
					height="10"
					rx="5"
					fill={paint}
					opacity="0.3"
				/>
			)}
			{row.apart !== null && <circle cx={row.apart} cy={row.y} r="4.5" fill={paint} />}
		</g>
	);
}

interface WordsProps {
	body: Body;
	front: number;
	item: Item;
	closer: (row: string) => void;
}

/** A row in words; the whole row opens a closer look at it below. */
function Words({ body, front, item, closer }: WordsProps) {
	const share = item.shares[front];
	const alone = body.groups[front]?.n === 1;
	const one = item.beside?.[front];
	const verdict = one?.verdict ?? "none";
	const about =
		item.about?.strand ??
		item.about?.topic ??
		(item.questions > 1 ? count(item.questions, "question") : "");
	const points = one?.span == null ? null : 100 * one.span;
	const interval = range(times(one?.low), times(one?.high));
	const said = [
		...body.groups.map((group, at) => `${group.label} ${percent(item.shares[at]?.share)}`),
		...shownPaired(body).map(
			(other, at) => `${other.label} ${percent(item.paired?.[at]?.share)} of ${other.n}`,
		),
	];
	const words = (
		<>
			<span className="min-w-0">
				<span className="block truncate leading-4 font-semibold">
					{item.label}
					{item.title && <span className="font-normal"> {item.title}</span>}
				</span>
				<span className="block truncate text-[11px] leading-4 text-muted">
					{about}
					{item.again && " · read it again"}
					{item.report && item.report !== "yes" && ` · ${REPORT[item.report]}`}
				</span>
			</span>
			<span className="pr-3 text-right text-[13px] whitespace-nowrap text-muted">
				{alone && share?.share != null && `${figure(share.share * item.maximum, 0)}/`}
				{figure(item.maximum, 0)}
				<span className="sr-only"> marks. {said.join(", ")}</span>
			</span>
			<span className="sr-only">{one?.rest != null && `, the rest ${percent(one.rest)}`}</span>
			<span className={`text-right font-bold whitespace-nowrap ${tone(verdict)}`}>
				{points === null ? percent(share?.share) : signed(points, 0)}
				<span className="ml-2 inline-block w-3" aria-hidden="true">
					{SYMBOL[verdict]}
				</span>
				<span className="sr-only">
					{points !== null && " points"}
					{meaning({ verdict }) && `, ${meaning({ verdict })}`}
					{interval && `, 95% interval ${interval}`}
				</span>
			</span>
		</>
	);
	const shape =
		"absolute inset-x-0 inset-y-px grid w-full grid-cols-[154px_46px_1fr_auto] items-center gap-1 rounded px-1 text-left";
	const looked = body.looked?.label === item.label;
	const hint = [
		said.join(" · "),
		one?.rest != null && `the rest ${percent(one.rest)} (${one.rest_n})`,
		interval && `95% interval ${interval} points`,
		share && `${share.n} counted, ${share.missing} missing, ${share.omitted} left it out`,
		item.again,
	];
	return (
		<button
			type="button"
			className={`${shape} hover:bg-amber/10 ${looked ? "bg-amber/15" : ""}`}
			title={hint.filter(Boolean).join(" · ")}
			aria-expanded={looked}
			onClick={() => closer(looked ? "" : item.label)}
		>
			{words}
		</button>
	);
}

const REPORT = { "with caution": "a hint", no: "not on its own" } as const;

function times(share: number | null | undefined): number | null {
	return share == null ? null : 100 * share;
}

function percent(share: number | null | undefined): string {
	return share == null ? "–" : `${figure(100 * share, 0)}%`;
}

function Axis({ layout, width }: { layout: ItemsLayout; width: number }) {
	return (
		<svg width={width} height="20" aria-hidden="true">
			{layout.ticks.map((tick) => (
				<text
					key={tick.value}
					x={tick.at}
					y="14"
					textAnchor="middle"
					fontSize="12"
					fill="var(--color-muted)"
				>
					{figure(100 * tick.value, 0)}
				</text>
			))}
		</svg>
	);
}

/** Which mark is whose; a group that is pressed comes to the front. */
function Legend({ body, front, layout, choose }: HeadsProps & { choose: (key: string) => void }) {
	const left = body.groups.length - layout.drawn.length;
	const nation = layout.rows.some((row) => row.nation !== null);
	return (
		<figcaption className="flex flex-wrap items-center gap-x-4 gap-y-1 pt-1 text-xs text-muted">
			{layout.drawn.map((at, shape) => {
				const group = body.groups[at];
				if (!group) return null;
				return (
					<button
						key={group.key}
						type="button"
						aria-pressed={at === front}
						title={at === front ? "In front" : "Bring it to the front"}
						className="flex items-center gap-1.5 hover:underline"
						onClick={() => choose(group.key)}
					>
						<svg width="16" height="16" aria-hidden="true">
							<GroupShape shape={shape} x={8} y={8} paint="var(--color-ink)" />
						</svg>
						{group.label}, {group.n}
					</button>
				);
			})}
			<Beside body={body} shape={layout.drawn.length} />
			{body.against && (
				<span className="flex items-center gap-1.5">
					<svg width="10" height="18" aria-hidden="true">
						<RestLine x={5} y={9} />
					</svg>
					{body.against}
				</span>
			)}
			{nation && (
				<span className="flex items-center gap-1.5">
					<svg width="12" height="14" aria-hidden="true">
						<NationRing x={6} y={7} />
					</svg>
					the nation
				</span>
			)}
			{left > 0 && (
				<span>
					{count(left, "more group")} in Numbers; {DRAWN} are drawn
				</span>
			)}
		</figcaption>
	);
}

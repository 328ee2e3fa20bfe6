import { AxisTitle, YGrid } from "../../charts/Axes";
import { DASHES } from "../../charts/inks";
import { useWidth } from "../../charts/useWidth";
import { count, figure, range, signed } from "../../lib/numbers";
import { SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { PickList } from "../../ui/PickList";
import { Popover } from "../../ui/Popover";
import {
	FEW_LINES,
	HEIGHT,
	NAMED_LINES,
	NAMES_WIDTH,
	type TimeLayout,
	type TimeLine,
	timeLayout,
} from "./layout";

/** A line for each group; of many, those that moved otherwise than the rest stand out. */
export function OverTime({ answer, look, setLook, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "over_time") return null;
	const layout = timeLayout(body, width, look.row);
	const choose = (row: string | undefined) => setLook({ row });
	const many = body.series.length > FEW_LINES;
	const shown = layout.lines.filter((line) => line.full || body.series.length <= NAMED_LINES);
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow flex flex-col">
			{many && (
				<div className="mb-1 flex items-center gap-2 text-[13px]">
					<span>{summary(layout)}</span>
					<Chooser {...{ layout, choose }} chosen={look.row} />
				</div>
			)}
			<div className="relative" style={{ height: HEIGHT }}>
				<svg width={width} height={HEIGHT} aria-hidden="true">
					<Axes layout={layout} what={`${body.what}, ${body.unit}`} />
					{layout.lines.map((line) => (
						<Line key={line.key} line={line} dashed={!many} choose={many ? choose : undefined} />
					))}
				</svg>
				<Marks lines={shown} open={open} />
				<Names layout={layout} choose={many ? choose : undefined} chosen={look.row} />
			</div>
			<figcaption className="text-xs text-muted">
				{body.what}, {body.unit} · bars show 95% intervals
				{many && " · ▲ ▼ moved more or less than the others, beyond chance"}
			</figcaption>
		</figure>
	);
}

/** How many of the lines stand out, and why. */
function summary(layout: TimeLayout): string {
	const apart = layout.lines.filter((line) => line.apart).length;
	const all = layout.lines.length;
	const full = layout.lines.filter((line) => line.apart && line.full).length;
	if (!apart) return `None of ${figure(all, 0)} moved otherwise than the others, beyond chance.`;
	const said = `${count(apart, "line")} of ${figure(all, 0)} moved otherwise than the others, beyond chance`;
	return full < apart
		? `${said}; the ${full} that moved furthest from them are named.`
		: `${said}.`;
}

interface ChooserProps {
	layout: TimeLayout;
	chosen: string | undefined;
	choose: (row: string | undefined) => void;
}

/** Any line can be brought out of the muted ones. */
function Chooser({ layout, chosen, choose }: ChooserProps) {
	const now = layout.lines.find((line) => line.key === chosen);
	const inOrder = [...layout.lines].sort((a, b) => a.at - b.at);
	return (
		<span className="no-print ml-auto flex items-center gap-2">
			<Popover
				label="Find a line"
				title="Find a line"
				width={280}
				className="font-semibold text-ahead hover:underline"
				trigger={now ? now.label : "Find a line"}
			>
				{(close) => (
					<PickList
						label="lines"
						focus
						picks={inOrder.map((line) => ({
							key: line.key,
							words: line.label,
							aside: SYMBOL[line.verdict] ?? "",
							chosen: line.key === chosen,
							pick: () => {
								choose(line.key);
								close();
							},
						}))}
					/>
				)}
			</Popover>
			{now && (
				<button
					type="button"
					className="text-ahead hover:underline"
					onClick={() => choose(undefined)}
				>
					let it go
				</button>
			)}
		</span>
	);
}

interface LineProps {
	line: TimeLine;
	/** Told apart by dashes, where each has an ink of its own. */
	dashed: boolean;
	choose: ((row: string) => void) | undefined;
}

function Line({ line, dashed, choose }: LineProps) {
	const { d, ink, points, name } = line;
	if (!line.full)
		return (
			// biome-ignore lint/a11y/noStaticElementInteractions: any line can be chosen from the list above
			<path
				d={d}
				fill="none"
				stroke={ink}
				strokeWidth="1"
				opacity={line.apart ? 0.55 : 0.3}
				className="cursor-pointer hover:opacity-100"
				onClick={() => choose?.(line.key)}
			>
				<title>{line.label}</title>
			</path>
		);
	const last = points.at(-1);
	return (
		<g>
			<path
				d={d}
				fill="none"
				stroke={ink}
				strokeWidth="2.500"
				strokeDasharray={dashed ? DASHES[line.at % DASHES.length] : ""}
			/>
			{points.map((p) => (
				<g key={p.point.date}>
					<path d={`M${p.x} ${p.low}V${p.high}`} stroke={ink} strokeWidth="5" opacity="0.3" />
					<circle
						cx={p.x}
						cy={p.y}
						r="4.500"
						fill="var(--color-paper)"
						stroke={ink}
						strokeWidth="2.500"
					/>
				</g>
			))}
			{last && name && (
				<path
					d={`M${last.x + 7} ${last.y}L${name.x - 3} ${name.y}`}
					stroke="var(--color-line)"
					fill="none"
				/>
			)}
		</g>
	);
}

function Axes({ layout, what }: { layout: TimeLayout; what: string }) {
	return (
		<g>
			<YGrid ticks={layout.yTicks} left={layout.left} right={layout.right} />
			{layout.zero !== null && (
				<path d={`M${layout.left} ${layout.zero}H${layout.right}`} stroke="var(--color-neither)" />
			)}
			{layout.columns.map((column) => (
				<text
					key={column.date}
					x={column.x}
					y={layout.bottom + 18}
					textAnchor="middle"
					fontSize="12"
					fill="var(--color-ink)"
				>
					{column.label}
				</text>
			))}
			<AxisTitle x={13} y={(layout.top + layout.bottom) / 2} text={what} turned />
		</g>
	);
}

/** A button over each point: what it shows in words, and its students. */
function Marks({ lines, open }: { lines: TimeLine[]; open: LensProps["open"] }) {
	return (
		<>
			{lines.flatMap((line) =>
				line.points.map(({ point, x, y }) => {
					const { opens } = point;
					const moved =
						point.change == null
							? ""
							: `, change ${signed(point.change)}, 95% interval ${range(point.change_low, point.change_high)}`;
					const words = `${line.label}, ${point.label}: ${figure(point.value)}, 95% interval ${range(point.low, point.high)}, ${point.n} counted, ${point.missing} missing${moved}`;
					return (
						<button
							key={`${line.key} ${point.date}`}
							type="button"
							title={words}
							aria-label={words}
							aria-disabled={!opens}
							className="absolute size-5 -translate-1/2 rounded-full hover:bg-amber/30"
							style={{ left: x, top: y }}
							onClick={() => opens && open(opens)}
						/>
					);
				}),
			)}
		</>
	);
}

interface NamesProps {
	layout: TimeLayout;
	choose: ((row: string) => void) | undefined;
	chosen: string | undefined;
}

/** Each line's name at its end, with the number counted at its last sitting. */
function Names({ layout, choose, chosen }: NamesProps) {
	return (
		<ul>
			{layout.lines.map((line) => {
				if (!line.name) return null;
				const words = (
					<>
						<span className={tone(line.verdict)} aria-hidden="true">
							{SYMBOL[line.verdict]}
						</span>
						<span className={`truncate ${line.full ? "" : "text-muted"}`}>{line.label}</span>
						<span className="text-muted">{line.points.at(-1)?.point.n}</span>
					</>
				);
				const style = {
					left: line.name.x,
					top: line.name.y,
					maxWidth: NAMES_WIDTH - 16,
					color: line.ink,
				};
				const look = "flex max-w-full items-center gap-1 text-[13px] leading-[17px]";
				return (
					<li key={line.key} className="absolute -translate-y-1/2" style={style}>
						{choose ? (
							<button
								type="button"
								aria-pressed={line.key === chosen}
								className={`${look} hover:underline ${line.key === chosen ? "font-bold" : ""}`}
								onClick={() => choose(line.key)}
							>
								{words}
							</button>
						) : (
							<span className={look}>{words}</span>
						)}
					</li>
				);
			})}
		</ul>
	);
}

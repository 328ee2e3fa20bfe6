import { useWidth } from "../../charts/useWidth";
import { figure, signed } from "../../lib/numbers";
import { colour } from "../../lib/verdicts";
import { layoutOf, type Result, SIZE, type Timeline } from "./timeline";

const UNITS = {
	percentile: "national percentile rank",
	z: "standard deviations from the district's mean of the year",
	none: "",
};

interface Props {
	line: Timeline;
	results: readonly Result[];
	/** What the unit is called; else as the trade says. */
	called?: string;
}

/** A subject's results over time in one unit, each with its error, before the reach of others. */
export function TimelineChart({ line, results, called }: Props) {
	const unit = called ?? UNITS[line.unit];
	const show = (value: number) =>
		line.unit === "percentile" ? figure(value, 0) : signed(value, 1);
	const [frame, width] = useWidth<HTMLElement>(440);
	const drawn = layoutOf(line, results, show, width);
	const { height, left, right, bottom } = SIZE;
	const told = drawn.dots.map((dot) => dot.told).join("; ");
	return (
		<figure ref={frame}>
			<figcaption className="text-[13px]">
				<b>{line.about}</b>
				<span className="block text-xs text-muted">{unit}</span>
			</figcaption>
			<svg
				viewBox={`0 0 ${width} ${height}`}
				role="img"
				aria-label={`${line.about}, ${unit}: ${told}`}
				className="w-full"
			>
				{drawn.bands.map((way) => (
					<path key={way} d={way} fill="var(--color-ahead-wash)" />
				))}
				{drawn.ticks.map((tick) => (
					<g key={tick.words}>
						<path d={`M${left} ${tick.y}H${width - right}`} stroke="var(--color-line)" />
						<text
							x={left - 5}
							y={tick.y + 4}
							textAnchor="end"
							fontSize="11"
							fill="var(--color-muted)"
						>
							{tick.words}
						</text>
					</g>
				))}
				<path d={drawn.line} fill="none" stroke="var(--color-ink)" strokeWidth="1.5" />
				{drawn.dots.map((dot, at) => (
					<g key={dot.told}>
						<path
							d={`M${dot.x} ${dot.high}V${dot.low}`}
							stroke="var(--color-ink)"
							strokeWidth="2"
						/>
						<Dot x={dot.x} y={dot.y} sign={dot.sign} />
						<text
							x={dot.x}
							y={Math.min(dot.y, dot.high) - 9}
							textAnchor="middle"
							fontSize="11"
							fontWeight="700"
							fill={dot.sign === "behind" ? colour("behind") : "var(--color-ink)"}
						>
							{dot.words}
						</text>
						<text
							x={dot.anchor === "end" ? width - right : dot.x}
							y={height - bottom + (close(drawn.dots, at) ? 1 : 13)}
							textAnchor={dot.anchor}
							fontSize="11"
							fill="var(--color-muted)"
						>
							{dot.sitting}
						</text>
					</g>
				))}
				{drawn.gaps.map((gap) => (
					<text
						key={gap.sitting}
						x={gap.x}
						y={height - bottom - 4}
						textAnchor="middle"
						fontSize="11"
						fill="var(--color-muted)"
					>
						– {gap.words}
					</text>
				))}
			</svg>
		</figure>
	);
}

const NEAR = 70;

/** Whether its sitting would be written over the one before; two neighbours are never both moved. */
function close(dots: readonly { x: number }[], at: number): boolean {
	const [mine, before] = [dots[at], dots[at - 1]];
	if (!mine || !before || mine.x - before.x > NEAR) return false;
	return !close(dots, at - 1);
}

/** A result beyond the error of prediction points up or down; others are round. */
function Dot({ x, y, sign }: { x: number; y: number; sign: string }) {
	if (sign !== "ahead" && sign !== "behind")
		return <circle cx={x} cy={y} r="4" fill="var(--color-ink)" />;
	const d = sign === "ahead" ? -1 : 1;
	return <path d={`M${x - 5} ${y - 4 * d}H${x + 5}L${x} ${y + 5 * d}Z`} fill={colour(sign)} />;
}

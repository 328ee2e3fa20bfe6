import { AxisTitle, YGrid } from "../../charts/Axes";
import { DASHES, INKS } from "../../charts/inks";
import { useWidth } from "../../charts/useWidth";
import { figure, range } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { HEIGHT, type TimeLayout, timeLayout } from "./layout";

/** One line for each group, a point with its interval and n for each sitting. */
export function OverTime({ answer, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "over_time") return null;
	const layout = timeLayout(body, width);
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow flex flex-col">
			<div className="relative" style={{ height: HEIGHT }}>
				<svg width={width} height={HEIGHT} aria-hidden="true">
					<Axes layout={layout} what={`${body.what}, ${body.unit}`} />
					{layout.series.map((one) => (
						<g key={one.key}>
							<path
								d={one.d}
								fill="none"
								stroke={INKS[one.at % INKS.length]}
								strokeWidth="2.500"
								strokeDasharray={DASHES[one.at % DASHES.length]}
							/>
							{one.points.map((p) => (
								<g key={p.point.date}>
									<path
										d={`M${p.x} ${p.low}V${p.high}`}
										stroke={INKS[one.at % INKS.length]}
										strokeWidth="1.500"
									/>
									<circle
										cx={p.x}
										cy={p.y}
										r="5"
										fill="var(--color-paper)"
										stroke={INKS[one.at % INKS.length]}
										strokeWidth="2.500"
									/>
								</g>
							))}
						</g>
					))}
				</svg>
				<Marks layout={layout} open={open} />
				<Names layout={layout} />
			</div>
			<figcaption className="text-xs text-muted">
				{body.what}, {body.unit} · bars show 95% intervals
			</figcaption>
		</figure>
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
function Marks({ layout, open }: { layout: TimeLayout; open: LensProps["open"] }) {
	return (
		<>
			{layout.series.flatMap((one) =>
				one.points.map(({ point, x, y }) => {
					const words = `${one.label}, ${point.label}: ${figure(point.value)}, 95% interval ${range(point.low, point.high)}, ${point.n} counted, ${point.missing} missing`;
					return (
						<button
							key={`${one.key} ${point.date}`}
							type="button"
							title={words}
							aria-label={words}
							className="absolute size-5 -translate-1/2 rounded-full hover:bg-amber/30"
							style={{ left: x, top: y }}
							onClick={() => point.opens && open(point.opens)}
						/>
					);
				}),
			)}
		</>
	);
}

function Names({ layout }: { layout: TimeLayout }) {
	const ends = layout.series
		.map((one) => ({ one, last: one.points[one.points.length - 1] }))
		.filter((item) => item.last)
		.sort((a, b) => (a.last?.y ?? 0) - (b.last?.y ?? 0));
	let free = 0;
	return (
		<>
			{ends.map(({ one, last }) => {
				const y = Math.max(free, (last?.y ?? 0) - 9);
				free = y + 18;
				return (
					<span
						key={one.key}
						className="absolute truncate text-[13px]"
						style={{
							left: layout.right + 6,
							top: y,
							maxWidth: 140,
							color: INKS[one.at % INKS.length],
						}}
					>
						{one.label} <span className="text-muted">{last?.point.n}</span>
					</span>
				);
			})}
		</>
	);
}

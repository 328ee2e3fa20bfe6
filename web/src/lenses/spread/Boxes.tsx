import { XTicks } from "../../charts/Axes";
import { Overview, overviewWidth } from "../../charts/Overview";
import { linear, type Scale } from "../../charts/scale";
import { figure } from "../../lib/numbers";
import { FEW_ROWS, useRowsInView } from "../../ui/useRowsInView";
import { dashed } from "./Curves";
import { inkOf } from "./layout";
import type { Drawing } from "./Spread";

type Curve = Drawing["body"]["curves"][number];

const ROW = 34;
const NAME = 190;
const VALUE = 64;

/** The middle half, the median, and whiskers from the 10th to the 90th percentile, a row each. */
export function Boxes({ body, width, zoom, open }: Drawing) {
	const view = useRowsInView(body.curves.length, () => ROW);
	const many = body.curves.length > FEW_ROWS;
	const right = Math.max(width - VALUE - (many ? overviewWidth([]) : 0), NAME + 160);
	const x = linear(zoom ?? [body.edges[0] ?? 0, body.edges.at(-1) ?? 1], [NAME, right]);
	const ticks = x.marks(7);
	return (
		<>
			<div className={`print-flow flex min-h-[200px] ${many ? "flex-1" : "flex-initial"}`}>
				<div ref={view.frame} className="print-flow min-h-0 min-w-0 flex-1 overflow-auto">
					<ul style={{ paddingTop: view.before, paddingBottom: view.after }}>
						{view.rows.map((at) => {
							const curve = body.curves[at];
							if (!curve) return null;
							return (
								<li
									key={curve.key}
									data-index={at}
									aria-posinset={at + 1}
									aria-setsize={body.curves.length}
								>
									<Box
										{...{ curve, x, open, ticks }}
										cuts={body.cuts}
										ink={body.curves_drawn ? inkOf(curve, at) : "var(--color-ink)"}
									/>
								</li>
							);
						})}
					</ul>
				</div>
				{many && (
					<Overview
						rows={body.curves.map((one) => ({
							key: one.key,
							label: one.label,
							value: one.median ?? null,
							verdict: "none",
						}))}
						first={view.first}
						last={view.last}
						jump={view.jump}
					/>
				)}
			</div>
			<svg width={right + VALUE} height="24" aria-hidden="true" className="shrink-0">
				<XTicks ticks={ticks} bottom={4} />
			</svg>
			<figcaption className="text-center text-xs text-muted">
				{body.unit} · box: middle half and median, dot: mean, line: 10th to 90th percentile
			</figcaption>
		</>
	);
}

interface BoxProps {
	curve: Curve;
	cuts: Drawing["body"]["cuts"];
	x: Scale;
	ticks: { at: number; value: number }[];
	ink: string;
	open: Drawing["open"];
}

function Box({ curve, cuts, x, ticks, ink, open }: BoxProps) {
	const { opens } = curve;
	const known = curve.median != null;
	const words = known
		? `median ${figure(curve.median)}, middle half ${figure(curve.q1)} to ${figure(curve.q3)}, mean ${figure(curve.mean)}`
		: "too few to draw";
	const counted = `${figure(curve.n, 0)} counted, ${figure(curve.missing, 0)} missing`;
	const label = (
		<>
			<span
				className={`truncate ${curve.pinned ? "font-bold" : "font-semibold"}`}
				style={{ width: NAME - 60 }}
			>
				{curve.label}
			</span>
			<span className="w-9 text-right text-[13px] text-muted" aria-hidden="true">
				{figure(curve.n, 0)}
			</span>
			<span className="ml-auto text-right text-[13px] font-bold" aria-hidden="true">
				{known ? figure(curve.median) : "◇"}
			</span>
			<span className="sr-only">
				: {words}, {counted}
			</span>
		</>
	);
	const look = "absolute inset-0 flex w-full items-center gap-1 rounded px-1 text-left";
	return (
		<div className={`relative ${curve.pinned ? "bg-ink/[0.045]" : ""}`} style={{ height: ROW }}>
			<svg className="absolute inset-0 size-full" aria-hidden="true">
				{ticks.map((tick) => (
					<path key={tick.value} d={`M${tick.at} 0V${ROW}`} stroke="var(--color-line)" />
				))}
				{cuts.map((cut) => (
					<path
						key={cut.label}
						d={`M${x(cut.at)} 0V${ROW}`}
						stroke="var(--color-amber)"
						strokeDasharray={dashed(cut)}
					/>
				))}
				{known && <Drawn curve={curve} x={x} ink={ink} />}
			</svg>
			{opens ? (
				<button
					type="button"
					title={`${words} · ${counted}`}
					className={`${look} hover:bg-amber/10`}
					onClick={() => open(opens)}
				>
					{label}
				</button>
			) : (
				<div className={look}>{label}</div>
			)}
		</div>
	);
}

function Drawn({ curve, x, ink }: { curve: Curve; x: Scale; ink: string }) {
	const [q1, q3] = [curve.q1 ?? 0, curve.q3 ?? 0];
	return (
		<g>
			<path
				d={`M${x(curve.p10 ?? q1)} ${ROW / 2}H${x(curve.p90 ?? q3)}`}
				stroke={ink}
				strokeWidth="1.500"
			/>
			<rect
				x={x(q1)}
				y={ROW / 2 - 8}
				width={Math.max(1, x(q3) - x(q1))}
				height="16"
				fill="var(--color-paper)"
				stroke={ink}
				strokeWidth="2"
			/>
			<path d={`M${x(curve.median ?? 0)} ${ROW / 2 - 8}v16`} stroke={ink} strokeWidth="3" />
			{curve.mean != null && <circle cx={x(curve.mean)} cy={ROW / 2} r="3" fill={ink} />}
		</g>
	);
}

import type { Open, Schemas } from "../../api/client";
import { AxisTitle, XTicks } from "../../charts/Axes";
import { figure } from "../../lib/numbers";
import { inkOf, type SpreadLayout } from "./layout";

interface Props {
	body: Schemas["SpreadBody"];
	layout: SpreadLayout;
	width: number;
	open: (mark: Open) => void;
}

const ROW = 46;

/** The middle half, the median, and whiskers from the 10th to the 90th percentile. */
export function Boxes({ body, layout, width, open }: Props) {
	const height = body.curves.length * ROW + 40;
	const bottom = height - 34;
	return (
		<svg width={width} height={height} role="img" aria-label="As boxes">
			<XTicks ticks={layout.xTicks} bottom={bottom} top={0} />
			{body.cuts.map((cut) => (
				<path key={cut.label} d={`M${layout.x(cut.at)} 0V${bottom}`} stroke="var(--color-amber)" />
			))}
			{body.curves.map((curve, at) => {
				if (curve.q1 == null || curve.q3 == null || curve.median == null) return null;
				const y = at * ROW + 16;
				const ink = inkOf(curve, at);
				const x = layout.x;
				return (
					// biome-ignore lint/a11y/noStaticElementInteractions: the legend has the same as buttons
					<g
						key={curve.key}
						onClick={() => curve.opens && open(curve.opens)}
						className={curve.opens ? "cursor-pointer" : ""}
					>
						<text x={layout.left} y={y - 2} fontSize="12" fill="var(--color-ink)">
							{curve.label}
						</text>
						<path
							d={`M${x(curve.p10 ?? curve.q1)} ${y + 13}H${x(curve.p90 ?? curve.q3)}`}
							stroke={ink}
							strokeWidth="1.500"
						/>
						<rect
							x={x(curve.q1)}
							y={y + 4}
							width={Math.max(1, x(curve.q3) - x(curve.q1))}
							height="18"
							fill="var(--color-paper)"
							stroke={ink}
							strokeWidth="2"
						/>
						<path d={`M${x(curve.median)} ${y + 4}v18`} stroke={ink} strokeWidth="3" />
						{curve.mean != null && <circle cx={x(curve.mean)} cy={y + 13} r="3" fill={ink} />}
						<title>
							{`${curve.label}: median ${figure(curve.median)}, middle half ${figure(curve.q1)} to ${figure(curve.q3)}, ${curve.n} counted`}
						</title>
					</g>
				);
			})}
			<AxisTitle
				x={(layout.left + layout.right) / 2}
				y={height - 2}
				text={`${body.unit} · box: middle half and median, dot: mean, line: 10th to 90th percentile`}
			/>
		</svg>
	);
}

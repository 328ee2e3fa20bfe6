import { figure } from "../../lib/numbers";
import { curveLayout, HEIGHT, LEFT } from "./layout";
import { type Body, said } from "./model";

/** The figure against how many gain a step, nearest first; where what is wanted meets it; and where
 * groups like this finish, so that a wish can be told from a plan. */
export function Curve({ body, width }: { body: Body; width: number }) {
	const at = curveLayout(body, width);
	const { met, start, band } = at;
	const wanted = body.wanted == null ? null : at.y(body.wanted);
	return (
		<svg width={width} height={HEIGHT} role="img" aria-label={inWords(body)}>
			{at.y.marks(4).map((tick) => (
				<g key={tick.value}>
					<path d={`M${LEFT} ${tick.at}H${at.right}`} stroke="var(--color-line)" />
					<text
						x={LEFT - 6}
						y={tick.at + 4}
						textAnchor="end"
						fontSize="12"
						fill="var(--color-muted)"
					>
						{said(body, tick.value)}
					</text>
				</g>
			))}
			{band && (
				<g>
					<rect
						x={LEFT}
						y={band.y}
						width={at.right - LEFT}
						height={band.height}
						fill="var(--color-amber-wash)"
						stroke="var(--color-amber-ink)"
						strokeDasharray="2 3"
					/>
					<text
						x={at.right - 6}
						y={band.y + 14}
						textAnchor="end"
						fontSize="11.500"
						fontWeight="600"
						fill="var(--color-amber-ink)"
					>
						where groups like this finish
					</text>
				</g>
			)}
			<path d={at.path} fill="none" stroke="var(--color-ahead)" strokeWidth="2" />
			{wanted !== null && (
				<g>
					<path
						d={`M${LEFT} ${wanted}H${met ? met.x : at.right}`}
						stroke="var(--color-ink)"
						strokeWidth="1.500"
						strokeDasharray="4 3"
					/>
					<text x={LEFT + 4} y={wanted - 6} fontSize="12" fontWeight="700" fill="var(--color-ink)">
						wanted: {body.wanted_words}
					</text>
				</g>
			)}
			{start && <circle cx={start.x} cy={start.y} r="5" fill="var(--color-behind)" />}
			{met && (
				<g>
					<path
						d={`M${met.x} ${met.y}V${at.bottom}`}
						stroke="var(--color-ink)"
						strokeWidth="1.500"
						strokeDasharray="4 3"
					/>
					<circle
						cx={met.x}
						cy={met.y}
						r="6"
						fill="var(--color-amber)"
						stroke="var(--color-ink)"
						strokeWidth="1.500"
					/>
					<text
						x={met.x + 6}
						y={at.bottom - 6}
						fontSize="12.500"
						fontWeight="700"
						fill="var(--color-ink)"
					>
						{figure(met.students, 0)} {met.students === 1 ? "student" : "students"}
					</text>
				</g>
			)}
			{at.x
				.marks(6)
				.filter((tick) => Number.isInteger(tick.value))
				.map((tick) => (
					<text
						key={tick.value}
						x={tick.at}
						y={at.bottom + 15}
						textAnchor="middle"
						fontSize="12"
						fill="var(--color-muted)"
					>
						{tick.value}
					</text>
				))}
			<text
				x={(LEFT + at.right) / 2}
				y={HEIGHT - 3}
				textAnchor="middle"
				fontSize="12"
				fill="var(--color-muted)"
			>
				students who gain one step, nearest first
			</text>
		</svg>
	);
}

function inWords(body: Body): string {
	const takes = body.reachable
		? `${body.needed} students would have to gain a step`
		: "not reachable with one step each";
	return `Now ${said(body, body.now)}; wanted ${body.wanted_words}: ${takes}`;
}

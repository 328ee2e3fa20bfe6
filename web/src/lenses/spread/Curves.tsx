import type { Schemas } from "../../api/client";
import { AxisTitle, XTicks, YGrid } from "../../charts/Axes";
import { DASHES } from "../../charts/inks";
import { figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { HEIGHT, inkOf, type SpreadLayout, shareAt, type View } from "./layout";

interface Props {
	body: Schemas["SpreadBody"];
	layout: SpreadLayout;
	view: View;
	width: number;
	/** The score at which shares are read off. */
	at: number;
	words: string;
}

/** A curve for each of a few groups: the share at or above each score, or the share in each bin. */
export function Curves({ body, layout, view, width, at, words }: Props) {
	return (
		<svg width={width} height={HEIGHT} role="img" aria-label={`${words} As curves.`}>
			<YGrid
				ticks={layout.yTicks}
				left={layout.left}
				right={layout.right}
				words={(value) => `${Math.round(value * 1000) / 10}%`}
			/>
			<XTicks ticks={layout.xTicks} bottom={layout.bottom} />
			<Cuts layout={layout} cuts={body.cuts} />
			<g clipPath="url(#inside)">
				<clipPath id="inside">
					<rect
						x={layout.left}
						y={layout.top}
						width={layout.right - layout.left}
						height={layout.bottom - layout.top}
					/>
				</clipPath>
				{layout.paths.map(({ curve, at: place, d, band, expected }) => (
					<g key={curve.key}>
						{band && <path d={band} fill={inkOf(curve, place)} opacity="0.12" />}
						{expected && (
							<path
								d={expected}
								fill="none"
								stroke={inkOf(curve, place)}
								strokeWidth="2"
								strokeLinecap="round"
								strokeDasharray="0.1 5"
							/>
						)}
						<path
							d={d}
							fill="none"
							stroke={inkOf(curve, place)}
							strokeWidth={curve.pinned ? 1.5 : 2.5}
							strokeDasharray={DASHES[place % DASHES.length]}
						/>
					</g>
				))}
				{view === "above" && (
					<path
						d={`M${layout.x(at)} ${layout.top}V${layout.bottom}`}
						stroke="var(--color-amber-ink)"
						strokeDasharray="2 2"
					/>
				)}
			</g>
			{layout.paths.some((one) => one.expected) && (
				<text
					x={layout.right - 4}
					y={layout.top + 26}
					textAnchor="end"
					fontSize="12"
					fill="var(--color-muted)"
				>
					dotted: what the yardstick would give
				</text>
			)}
			<AxisTitle x={(layout.left + layout.right) / 2} y={HEIGHT - 4} text={body.unit} />
		</svg>
	);
}

interface CutsProps {
	layout: SpreadLayout;
	cuts: Schemas["CutLine"][];
}

/** The half of a level is told from a boundary without colour too. */
export function dashed(cut: Schemas["CutLine"]): string | undefined {
	return cut.half ? "3 3" : undefined;
}

/** Boundaries and cut scores, each with its name. */
function Cuts({ layout, cuts }: CutsProps) {
	return (
		<g>
			{cuts
				.map((cut) => ({ ...cut, x: layout.x(cut.at) }))
				.filter((cut) => cut.x >= layout.left && cut.x <= layout.right)
				.map((cut) => (
					<g key={cut.label}>
						<path
							d={`M${cut.x} ${layout.top}V${layout.bottom}`}
							stroke="var(--color-amber)"
							strokeDasharray={dashed(cut)}
						/>
						<text
							x={cut.x + 3}
							y={layout.top + 10}
							fontSize="11"
							fill="var(--color-amber-ink)"
							transform={`rotate(90 ${cut.x + 3} ${layout.top + 4})`}
						>
							{cut.half ? "½" : cut.label} {figure(cut.at, cut.half ? 1 : 0)}
						</text>
					</g>
				))}
		</g>
	);
}

interface LegendProps {
	body: Schemas["SpreadBody"];
	open: LensProps["open"];
	score: number | null;
}

/** Each curve with its n, and its share at the chosen score; a name opens its students. */
export function Legend({ body, open, score }: LegendProps) {
	return (
		<ul className="mt-1 grid grid-cols-2 gap-x-6 gap-y-0.5 text-[13px]">
			{body.curves.map((curve, at) => {
				const share = score === null ? null : shareAt(curve, score);
				const opens = curve.opens;
				const words = (
					<>
						<svg width="30" height="8" aria-hidden="true" className="shrink-0">
							<path
								d="M0 4H30"
								stroke={inkOf(curve, at)}
								strokeWidth="2.500"
								strokeDasharray={DASHES[at % DASHES.length]}
							/>
						</svg>
						<span className="truncate font-semibold">{curve.label}</span>
						<span className="text-muted">
							{figure(curve.n, 0)} counted, {figure(curve.missing, 0)} missing
							{curve.undefined && ", ◇ too few to draw"}
						</span>
						{share !== null && <b className="ml-auto">{figure(100 * share, 0)}%</b>}
					</>
				);
				const look = "flex w-full items-center gap-2 rounded px-1 text-left";
				return (
					<li key={curve.key}>
						{!opens ? (
							<div className={look}>{words}</div>
						) : (
							<button
								type="button"
								className={`${look} hover:bg-amber/10`}
								onClick={() => open(opens)}
							>
								{words}
							</button>
						)}
					</li>
				);
			})}
		</ul>
	);
}

import { useState } from "react";
import type { Answer } from "../../api/client";
import { AxisTitle, XTicks, YGrid } from "../../charts/Axes";
import { DASHES } from "../../charts/inks";
import { useWidth } from "../../charts/useWidth";
import { figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { Boxes } from "./Boxes";
import { HEIGHT, inkOf, type SpreadLayout, shareAt, spreadLayout, type View } from "./layout";

const VIEWS: [View, string][] = [
	["above", "Share at or above"],
	["histogram", "Histogram"],
	["box", "Boxes"],
];

/** The distribution of up to six groups or measures, with boundaries drawn in. */
export function Spread({ answer, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const [view, setView] = useState<View>("above");
	const [zoom, setZoom] = useState<[number, number] | null>(null);
	const [score, setScore] = useState<number | null>(null);
	const body = answer.body;
	if (body.show !== "spread") return null;
	const layout = spreadLayout(body, view, width, zoom);
	const [first, last] = [body.edges[0] ?? 0, body.edges[body.edges.length - 1] ?? 1];
	const middle = score ?? Math.round((first + last) / 2);
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow flex flex-col">
			<div className="no-print mb-1 flex flex-wrap items-center gap-1 text-[13px]">
				{VIEWS.map(([key, words]) => (
					<button
						key={key}
						type="button"
						aria-pressed={view === key}
						className={`rounded border px-2 py-0.5 ${view === key ? "border-ink font-semibold" : "border-line text-muted"}`}
						onClick={() => setView(key)}
					>
						{words}
					</button>
				))}
				<Zoom {...{ zoom, setZoom, first, last }} />
			</div>
			{view === "box" ? (
				<Boxes body={body} layout={layout} width={width} open={open} />
			) : (
				<svg width={width} height={HEIGHT} role="img" aria-label={`${answer.sentence} As curves.`}>
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
						{layout.paths.map(({ curve, at, d, band }) => (
							<g key={curve.key}>
								{band && <path d={band} fill={inkOf(curve, at)} opacity="0.12" />}
								<path
									d={d}
									fill="none"
									stroke={inkOf(curve, at)}
									strokeWidth={curve.pinned ? 1.5 : 2.5}
									strokeDasharray={DASHES[at % DASHES.length]}
								/>
							</g>
						))}
						{view === "above" && (
							<path
								d={`M${layout.x(middle)} ${layout.top}V${layout.bottom}`}
								stroke="var(--color-amber-ink)"
								strokeDasharray="2 2"
							/>
						)}
					</g>
					<AxisTitle x={(layout.left + layout.right) / 2} y={HEIGHT - 4} text={body.unit} />
				</svg>
			)}
			{view === "above" && (
				<label className="no-print flex items-center gap-2 text-[13px] text-muted">
					Share at or above
					<input
						type="range"
						className="w-64 accent-(--color-amber-ink)"
						min={Math.ceil(first)}
						max={Math.floor(last)}
						value={middle}
						onChange={(event) => setScore(Number(event.target.value))}
					/>
					<b className="text-ink">
						{figure(middle, 0)} {body.unit}
					</b>
				</label>
			)}
			<Legend {...{ body, open }} score={view === "above" ? middle : null} />
		</figure>
	);
}

interface ZoomProps {
	zoom: [number, number] | null;
	setZoom: (zoom: [number, number] | null) => void;
	first: number;
	last: number;
}

/** The scores that are looked at; one button brings all back. */
function Zoom({ zoom, setZoom, first, last }: ZoomProps) {
	const [low, high] = zoom ?? [first, last];
	const set = (from: number, to: number) => to > from && setZoom([from, to]);
	return (
		<span className="ml-auto flex items-center gap-1 text-muted">
			scores
			<input
				className="input input-xs w-16"
				type="number"
				aria-label="Lowest score shown"
				value={Math.round(low)}
				onChange={(event) => set(Number(event.target.value), high)}
			/>
			to
			<input
				className="input input-xs w-16"
				type="number"
				aria-label="Highest score shown"
				value={Math.round(high)}
				onChange={(event) => set(low, Number(event.target.value))}
			/>
			{zoom && (
				<button type="button" className="text-ahead hover:underline" onClick={() => setZoom(null)}>
					all
				</button>
			)}
		</span>
	);
}

interface CutsProps {
	layout: SpreadLayout;
	cuts: { label: string; at: number }[];
}

/** Boundaries and cut scores, each with its name. */
export function Cuts({ layout, cuts }: CutsProps) {
	return (
		<g>
			{cuts
				.map((cut) => ({ ...cut, x: layout.x(cut.at) }))
				.filter((cut) => cut.x >= layout.left && cut.x <= layout.right)
				.map((cut) => (
					<g key={cut.label}>
						<path d={`M${cut.x} ${layout.top}V${layout.bottom}`} stroke="var(--color-amber)" />
						<text
							x={cut.x + 3}
							y={layout.top + 10}
							fontSize="11"
							fill="var(--color-amber-ink)"
							transform={`rotate(90 ${cut.x + 3} ${layout.top + 4})`}
						>
							{cut.label} {figure(cut.at, 0)}
						</text>
					</g>
				))}
		</g>
	);
}

interface LegendProps {
	body: Extract<Answer["body"], { show: "spread" }>;
	open: LensProps["open"];
	score: number | null;
}

/** Each curve with its n, and its share at the chosen score; a name opens its students. */
function Legend({ body, open, score }: LegendProps) {
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

import { type KeyboardEvent, useState } from "react";
import type { Answer } from "../../api/client";
import { AxisTitle, XTicks, YGrid } from "../../charts/Axes";
import { INKS } from "../../charts/inks";
import { useWidth } from "../../charts/useWidth";
import { figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { HEIGHT, startLayout } from "./layout";

const SHAPES = [
	"M-3.5 0a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0 -7 0",
	"M-3.2 -3.2h6.4v6.4h-6.4z",
	"M0 -4.2L4 3H-4Z",
	"M0 -4.5L4.5 0L0 4.5L-4.5 0Z",
	"M-4 0H4M0 -4V4",
	"M-3 -3L3 3M-3 3L3 -3",
];

/** Prior against outcome with what similar starters reach; a dot opens its student. */
export function StartToNow({ answer, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "start_to_now") return null;
	const layout = startLayout(body, width);
	const several = body.groups.length > 1;
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow flex flex-col">
			{several && (
				<ul className="flex flex-wrap gap-x-4 text-[13px]" aria-label="Groups">
					{body.groups.map((group, at) => (
						<li key={group.key} className="flex items-center gap-1.5">
							<svg width="12" height="12" viewBox="-6 -6 12 12" aria-hidden="true">
								<path d={SHAPES[at]} fill={at < 4 ? INKS[at] : "none"} stroke={INKS[at]} />
							</svg>
							{group.label}
						</li>
					))}
				</ul>
			)}
			{/* biome-ignore lint/a11y/useSemanticElements: a drawing is no fieldset, and its marks can be reached */}
			<svg width={width} height={HEIGHT} role="group" aria-label={`${figure(body.n, 0)} students`}>
				<YGrid ticks={layout.yTicks} left={layout.left} right={layout.right} />
				<XTicks ticks={layout.xTicks} bottom={layout.bottom} />
				{layout.cells.map((cell) => (
					<rect
						key={`${cell.x} ${cell.y}`}
						x={cell.x}
						y={cell.y}
						width={cell.width + 0.5}
						height={cell.height + 0.5}
						fill="var(--color-ahead)"
						opacity={0.08 + 0.8 * cell.shade}
					/>
				))}
				<Dots body={body} layout={layout} several={several} open={open} />
				{layout.lines.map((line) => (
					<g key={line.label}>
						<path d={line.d} fill="none" stroke="var(--color-amber-ink)" strokeWidth="2" />
						<text
							x={line.end[0] + 4}
							y={line.end[1] + 4}
							fontSize="11"
							fill="var(--color-amber-ink)"
						>
							{line.label}
						</text>
					</g>
				))}
				<AxisTitle
					x={(layout.left + layout.right) / 2}
					y={HEIGHT - 6}
					text={`start: ${body.x_label}`}
				/>
				<AxisTitle x={12} y={(layout.top + layout.bottom) / 2} text={body.y_label} turned />
			</svg>
			<figcaption className="text-xs text-muted">
				{figure(body.n, 0)} drawn, {figure(body.missing, 0)} without one of the two scores
				{body.lines.length > 0 && " · line: what similar starters reach"}
				{body.density && " · darker: more students"}
			</figcaption>
		</figure>
	);
}

interface DotsProps {
	body: Extract<Answer["body"], { show: "start_to_now" }>;
	layout: ReturnType<typeof startLayout>;
	several: boolean;
	open: LensProps["open"];
}

function Dots({ body, layout, several, open }: DotsProps) {
	const [at, setAt] = useState<number | undefined>();
	const dots = body.dots;
	if (!dots || dots.student.length === 0) return null;
	const focused = dots.focus.some(Boolean);
	const order = dots.x.map((_, dot) => dot).sort((a, b) => (dots.x[a] ?? 0) - (dots.x[b] ?? 0));
	const now = order[at ?? 0] ?? 0;
	const spot = [layout.x(dots.x[now] ?? 0), layout.y(dots.y[now] ?? 0)] as const;
	const said = `start ${figure(dots.x[now] ?? 0)}, now ${figure(dots.y[now] ?? 0)}`;
	function opened(dot: number): void {
		const student = dots?.student[dot];
		if (body.opens && student !== undefined) open({ ...body.opens, students: [student] });
	}
	function move(event: KeyboardEvent): void {
		const step = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
		const ends = { Home: 0, End: order.length - 1 }[event.key];
		if (event.key === "Enter") opened(now);
		else if (ends !== undefined) setAt(ends);
		else if (step) setAt(Math.min(order.length - 1, Math.max(0, (at ?? 0) + step)));
		else return;
		event.preventDefault();
	}
	return (
		<g
			role="slider"
			tabIndex={0}
			aria-label="Students, from the lowest start; Enter opens one"
			aria-valuemin={1}
			aria-valuemax={order.length}
			aria-valuenow={(at ?? 0) + 1}
			aria-valuetext={several ? `${body.groups[dots.group[now] ?? 0]?.label}, ${said}` : said}
			onKeyDown={move}
			onFocus={() => setAt(at ?? 0)}
			onBlur={() => setAt(undefined)}
		>
			{dots.student.map((student, dot) => {
				const group = several ? Math.max(0, dots.group[dot] ?? 0) : 0;
				const bright = !focused || dots.focus[dot];
				const ink = focused && !dots.focus[dot] ? "var(--color-neither)" : INKS[group];
				return (
					// biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys reach the same ones
					<path
						key={student}
						d={SHAPES[group]}
						transform={`translate(${layout.x(dots.x[dot] ?? 0)} ${layout.y(dots.y[dot] ?? 0)})`}
						fill={group < 4 ? ink : "none"}
						stroke={ink}
						opacity={bright ? 0.6 : 0.2}
						className="cursor-pointer hover:opacity-100"
						onClick={() => opened(dot)}
					/>
				);
			})}
			{at !== undefined && (
				<circle
					cx={spot[0]}
					cy={spot[1]}
					r="8"
					fill="none"
					stroke="var(--color-ink)"
					strokeWidth="2"
				/>
			)}
		</g>
	);
}

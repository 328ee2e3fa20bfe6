import { type KeyboardEvent, useState } from "react";
import type { Answer } from "../../api/client";
import { INKS } from "../../charts/inks";
import { figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import type { StartLayout } from "./layout";

/** A shape for each group, so that they are told apart without colour. */
export const SHAPES = [
	"M-3.5 0a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0 -7 0",
	"M-3.2 -3.2h6.4v6.4h-6.4z",
	"M0 -4.2L4 3H-4Z",
	"M0 -4.5L4.5 0L0 4.5L-4.5 0Z",
	"M-4 0H4M0 -4V4",
	"M-3 -3L3 3M-3 3L3 -3",
];

interface DotsProps {
	body: Extract<Answer["body"], { show: "start_to_now" }>;
	layout: StartLayout;
	several: boolean;
	open: LensProps["open"];
}

/** A dot for each student; one stop for the tab key, the arrows go from dot to dot. */
export function Dots({ body, layout, several, open }: DotsProps) {
	const [at, setAt] = useState<number | undefined>();
	const dots = body.dots;
	if (!dots || dots.marks.length === 0) return null;
	const focused = dots.focus.some(Boolean);
	const order = dots.x
		.map((_, dot) => dot)
		.filter((dot) => layout.heights[dot] != null)
		.sort((a, b) => (dots.x[a] ?? 0) - (dots.x[b] ?? 0));
	const now = order[at ?? 0] ?? 0;
	const spot = [layout.x(dots.x[now] ?? 0), layout.heights[now] ?? 0] as const;
	const said = `start ${figure(dots.x[now] ?? 0)}, now ${figure(dots.y[now] ?? 0)}`;
	function opened(dot: number): void {
		const opens = dots?.marks[dot]?.opens;
		if (opens) open(opens);
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
			{order.map((dot) => {
				const group = several ? Math.max(0, dots.group[dot] ?? 0) : 0;
				const bright = !focused || dots.focus[dot];
				const ink = focused && !dots.focus[dot] ? "var(--color-neither)" : INKS[group];
				return (
					// biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys reach the same ones
					<path
						key={dot}
						d={SHAPES[group]}
						transform={`translate(${layout.x(dots.x[dot] ?? 0)} ${layout.heights[dot] ?? 0})`}
						fill={group < 4 ? ink : "none"}
						stroke={ink}
						opacity={bright ? (dots.marks.length > 800 ? 0.35 : 0.6) : 0.15}
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

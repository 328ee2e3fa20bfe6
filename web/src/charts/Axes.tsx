import { figure } from "../lib/numbers";

interface Tick {
	at: number;
	value: number;
}

interface YGridProps {
	ticks: Tick[];
	left: number;
	right: number;
	/** How a tick is written; whole numbers if nothing is said. */
	words?: (value: number) => string;
}

const whole = (value: number) => figure(value, 0);

/** Horizontal lines with their values to the left. */
export function YGrid({ ticks, left, right, words = whole }: YGridProps) {
	return (
		<g>
			{ticks.map((tick) => (
				<g key={tick.value}>
					<path d={`M${left} ${tick.at}H${right}`} stroke="var(--color-line)" />
					<text
						x={left - 6}
						y={tick.at + 4}
						textAnchor="end"
						fontSize="12"
						fill="var(--color-muted)"
					>
						{words(tick.value)}
					</text>
				</g>
			))}
		</g>
	);
}

/** Values below the chart, with vertical lines where `top` says where they begin. */
export function XTicks({ ticks, bottom, top }: { ticks: Tick[]; bottom: number; top?: number }) {
	return (
		<g>
			{ticks.map((tick) => (
				<g key={tick.value}>
					{top !== undefined && (
						<path d={`M${tick.at} ${top}V${bottom}`} stroke="var(--color-line)" />
					)}
					<text
						x={tick.at}
						y={bottom + 16}
						textAnchor="middle"
						fontSize="12"
						fill="var(--color-muted)"
					>
						{whole(tick.value)}
					</text>
				</g>
			))}
		</g>
	);
}

/** What an axis shows, with its unit: below the chart, or turned at its left. */
export function AxisTitle({ x, y, text, turned }: TitleProps) {
	return (
		<text
			x={x}
			y={y}
			textAnchor="middle"
			fontSize="12"
			fill="var(--color-muted)"
			transform={turned ? `rotate(-90 ${x} ${y})` : undefined}
		>
			{text}
		</text>
	);
}

interface TitleProps {
	x: number;
	y: number;
	text: string;
	turned?: boolean;
}

import { useMemo } from "react";
import { colour, SYMBOL, tone } from "../lib/verdicts";
import { type Glance, MARKS_WIDTH, overviewLayout } from "./overview";
import { useHeight } from "./useWidth";

interface Props {
	rows: Glance[];
	/** The first and the last row in view. */
	first: number;
	last: number;
	jump: (row: number) => void;
}

const WITH_NAMES = 188;

/** How wide it is: names need room only where some are told apart. */
export function overviewWidth(rows: { verdict?: string }[]): number {
	const told = rows.some((row) => row.verdict === "ahead" || row.verdict === "behind");
	return told ? WITH_NAMES : MARKS_WIDTH + 10;
}

/** All rows at a glance beside the few in view: a name or a place to click goes there. */
export function Overview({ rows, first, last, jump }: Props) {
	const [frame, height] = useHeight<HTMLElement>();
	const layout = useMemo(() => overviewLayout(rows, height), [rows, height]);
	const width = overviewWidth(rows);
	const place = (row: number) => (row * height) / Math.max(rows.length, 1);
	return (
		<nav
			ref={frame}
			aria-label="All rows at a glance"
			className="no-print relative shrink-0 overflow-hidden border-l border-line"
			style={{ width }}
		>
			<svg
				width={width}
				height={height}
				aria-hidden="true"
				className="absolute inset-0 cursor-pointer"
				onClick={(event) => {
					const box = event.currentTarget.getBoundingClientRect();
					jump(Math.floor(((event.clientY - box.top) / height) * rows.length));
				}}
			>
				<rect
					y={place(first)}
					width={MARKS_WIDTH}
					height={Math.max(3, place(last + 1) - place(first))}
					fill="var(--color-amber)"
					opacity="0.25"
				/>
				{layout.zero !== null && (
					<path d={`M${layout.zero} 0V${height}`} stroke="var(--color-line)" />
				)}
				{layout.paths.map(({ verdict, d }) => (
					<path key={verdict} d={d} stroke={colour(verdict)} strokeWidth="2" />
				))}
				{layout.names.map(({ glance, y, mark }) => (
					<path
						key={glance.key}
						d={`M${MARKS_WIDTH} ${mark}L${MARKS_WIDTH + 8} ${y}`}
						stroke="var(--color-line)"
					/>
				))}
			</svg>
			{layout.names.map(({ glance, at, y }) => (
				<button
					key={glance.key}
					type="button"
					title={glance.label}
					className="absolute flex h-[15px] -translate-y-1/2 items-center gap-1 truncate text-left text-[11px] leading-none hover:underline"
					style={{ top: y, left: MARKS_WIDTH + 10, width: width - MARKS_WIDTH - 12 }}
					onClick={() => jump(at)}
				>
					<span className={tone(glance.verdict)} aria-hidden="true">
						{SYMBOL[glance.verdict]}
					</span>
					<span className="truncate">{glance.label}</span>
					<span className="sr-only">, {glance.verdict}: go there</span>
				</button>
			))}
			{layout.more > 0 && (
				<p className="absolute right-1 bottom-0 bg-paper px-1 text-[11px] text-muted">
					and {layout.more} more told apart
				</p>
			)}
		</nav>
	);
}

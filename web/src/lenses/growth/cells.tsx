import type { Schemas } from "../../api/client";
import { count, figure, percent } from "../../lib/numbers";
import { colour, meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type GrowthColumns, MET, metWidths, ROW } from "./layout";

type Row = Schemas["GrowthRow"];
interface Cell {
	row: Row;
	open: LensProps["open"];
}

/** The group's name opens its students. */
export function Name({ row, open }: Cell) {
	const { opens } = row;
	if (!opens) return <span className="truncate px-1 text-[13px] font-semibold">{row.label}</span>;
	return (
		<button
			type="button"
			className="truncate px-1 text-left text-[13px] font-semibold hover:underline"
			onClick={() => open(opens)}
		>
			{row.label}
		</button>
	);
}

/** The middle growth percentile with its interval, on the axis from 1 to 99. */
export function Middle({ row, columns }: { row: Row; columns: GrowthColumns }) {
	const { x, axis } = columns;
	const { median, median_low: low, median_high: high } = row;
	const ink = colour(row.verdict ?? "none");
	return (
		<svg width={axis} height={ROW} aria-hidden="true">
			<path d={`M${x(50)} 0V${ROW}`} stroke="var(--color-muted)" strokeWidth="1.500" />
			{[25, 75].map((at) => (
				<path key={at} d={`M${x(at)} 0V${ROW}`} stroke="var(--color-line)" />
			))}
			{median != null && low != null && high != null && (
				<rect
					x={x(low)}
					y={ROW / 2 - 5}
					width={Math.max(1, x(high) - x(low))}
					height="10"
					rx="3"
					fill={ink}
					opacity="0.3"
				/>
			)}
			{median != null && <circle cx={x(median)} cy={ROW / 2} r="5" fill={ink} />}
		</svg>
	);
}

/** The same in figures, with how the group stands to similar starters. */
export function Told({ row }: { row: Row }) {
	if (row.undefined) return <span className="text-xs text-muted">◇ too few to show</span>;
	if (row.median == null)
		return (
			<span className="text-xs text-muted">{(row.ranked ?? 0) > 0 ? "fewer than 30" : "none"}</span>
		);
	const verdict = row.verdict ?? "none";
	return (
		<span className="leading-tight whitespace-nowrap">
			<b className={tone(verdict)}>{figure(row.median, 0)}</b>
			<span className={`ml-1 ${tone(verdict)}`} title={meaning({ verdict })}>
				<span aria-hidden="true">{SYMBOL[verdict]}</span>
				<span className="sr-only">, {meaning({ verdict })}</span>
			</span>
			<span className="block text-[11px] text-muted">
				{figure(row.median_low, 0)} to {figure(row.median_high, 0)}
			</span>
		</span>
	);
}

/** Who met the expected growth, and inside it who met the ambitious one. */
export function Met({ row, open }: Cell) {
	const wide = metWidths(row, MET);
	if (!row.met?.some((one) => one.share != null))
		return <span className="text-xs text-muted">not in the table</span>;
	return (
		<span className="block leading-tight">
			<span className="relative block h-2.5 bg-wash" aria-hidden="true">
				<span
					className="absolute h-full border border-ahead bg-ahead/25"
					style={{ width: wide.expected }}
				/>
				<span className="absolute h-full bg-ahead" style={{ width: wide.ambitious }} />
			</span>
			<span className="flex justify-between text-[11px]">
				{row.met.map((one) => (
					<Goal key={one.goal} one={one} open={open} />
				))}
			</span>
		</span>
	);
}

function Goal({ one, open }: { one: Schemas["Met"]; open: LensProps["open"] }) {
	const { opens } = one;
	const words = `${percent(one.share)}: ${count(one.n, "student")} of ${one.of} met the ${one.goal} growth (95% interval ${percent(one.low)} to ${percent(one.high)})`;
	const look = one.goal === "ambitious" ? "font-bold text-ahead" : "";
	if (!opens)
		return (
			<span className={look} title={words}>
				{percent(one.share)}
			</span>
		);
	return (
		<button
			type="button"
			className={`hover:underline ${look}`}
			title={words}
			aria-label={words}
			onClick={() => open(opens)}
		>
			{percent(one.share)}
		</button>
	);
}

/** Whose rank fell though the score rose, beside what error alone would let fall. */
export function Fell({ row, open }: Cell) {
	const fell = row.fell;
	if (!fell) return <span className="text-xs text-muted">–</span>;
	const { opens } = fell;
	const words = `${percent(fell.share)}: ${count(fell.n, "student")} of ${fell.of} fell in the nation though their score rose`;
	return (
		<span className="leading-tight">
			{opens ? (
				<button
					type="button"
					className="text-[13px] font-semibold hover:underline"
					title={words}
					aria-label={words}
					onClick={() => open(opens)}
				>
					{percent(fell.share)}
				</button>
			) : (
				<span className="text-[13px] font-semibold" title={words}>
					{percent(fell.share)}
				</span>
			)}
			<span className="block text-[11px] text-muted">
				{fell.alone == null ? "error not known" : `error alone ${percent(fell.alone)}`}
			</span>
		</span>
	);
}

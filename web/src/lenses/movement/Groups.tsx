import type { Open, Schemas } from "../../api/client";
import { count, percent } from "../../lib/numbers";
import { meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";

type Row = Schemas["MovementRow"];

interface Props {
	body: Schemas["MovementBody"];
	open: LensProps["open"];
	width: number;
}

const NAME = 150;
const FIGURES = 250;
const BAR = 18;

/** Each group's credit: full and part as a bar, what similar starters earn as a mark on it. */
export function Groups({ body, open, width }: Props) {
	const wide = Math.max(160, width - NAME - FIGURES - 70);
	const rows = [...body.reference, ...body.rows];
	return (
		<section aria-label={`Credit by ${body.dimension}`} className="mt-4">
			<div className="flex items-baseline gap-4 text-xs text-muted">
				<h2 className="font-semibold">
					Credit by {body.dimension}: {body.rule}
				</h2>
				<Key />
			</div>
			<ul>
				{rows.map((row) => (
					<li
						key={`${row.pinned} ${row.key}`}
						className={`grid items-center gap-x-3 py-0.5 ${row.pinned ? "bg-ink/[0.045]" : ""}`}
						style={{ gridTemplateColumns: `${NAME}px 36px ${wide}px 1fr` }}
					>
						<Name row={row} open={open} />
						<span className="text-right text-[13px] text-muted">{row.n}</span>
						<Bar {...{ row, wide, open }} />
						<Figures row={row} />
					</li>
				))}
			</ul>
		</section>
	);
}

function Key() {
	return (
		<span className="flex items-center gap-3">
			<Swatch className="bg-ahead" /> full
			<Swatch className="border border-amber-ink bg-amber" /> a part
			<span className="h-3 w-0.5 bg-ink" /> similar starters
			<span className="h-3 w-0 border-l-2 border-dotted border-ink" /> error of measurement alone
		</span>
	);
}

function Swatch({ className }: { className: string }) {
	return <span className={`inline-block size-3 ${className}`} aria-hidden="true" />;
}

function Name({ row, open }: { row: Row; open: LensProps["open"] }) {
	const { opens } = row;
	if (!opens) return <span className="truncate text-[13px] font-semibold">{row.label}</span>;
	return (
		<button
			type="button"
			className="truncate text-left text-[13px] font-semibold hover:underline"
			onClick={() => open(opens)}
		>
			{row.label}
		</button>
	);
}

interface BarProps {
	row: Row;
	wide: number;
	open: (mark: Open) => void;
}

/** Full credit, then what a part of it is worth: together the row's credit. */
function Bar({ row, wide, open }: BarProps) {
	if (row.undefined) return <span className="text-xs text-muted">◇ too few to show</span>;
	const full = row.full.share ?? 0;
	const part = Math.max(0, (row.credit ?? 0) - full);
	const at = (share: number) => share * wide;
	return (
		<span className="relative block bg-wash" style={{ width: wide, height: BAR }}>
			<Segment
				mark={row.full}
				left={0}
				width={at(full)}
				look="bg-ahead"
				words="full credit"
				open={open}
			/>
			<Segment
				mark={row.part}
				left={at(full)}
				width={at(part)}
				look="bg-amber border-y border-amber-ink"
				words="a part of the credit"
				open={open}
			/>
			{row.alone != null && (
				<span
					aria-hidden="true"
					className="absolute h-full border-l-2 border-dotted border-ink"
					style={{ left: at(row.alone) }}
				/>
			)}
			{row.similar != null && (
				<span
					aria-hidden="true"
					className="absolute -inset-y-0.5 w-[2.5px] bg-ink"
					style={{ left: at(row.similar) }}
				/>
			)}
		</span>
	);
}

interface SegmentProps {
	mark: Schemas["CreditPart"];
	left: number;
	width: number;
	look: string;
	words: string;
	open: (mark: Open) => void;
}

function Segment({ mark, left, width, look, words, open }: SegmentProps) {
	const { opens } = mark;
	const shape = { left, width };
	const said = `${count(mark.n, "student")} with ${words}, ${percent(mark.share)} (95% interval ${percent(mark.low)} to ${percent(mark.high)})`;
	if (mark.n === 0) return null;
	if (!opens) return <span className={`absolute h-full ${look}`} style={shape} title={said} />;
	return (
		<button
			type="button"
			className={`absolute h-full hover:opacity-80 ${look}`}
			style={shape}
			title={said}
			aria-label={said}
			onClick={() => open(opens)}
		/>
	);
}

function Figures({ row }: { row: Row }) {
	const missing = row.missing ?? 0;
	if (row.undefined) return <span className="text-xs text-muted">{missing} missing</span>;
	const verdict = row.verdict ?? "none";
	return (
		<span className="flex items-baseline gap-2 text-[13px] whitespace-nowrap">
			<b className={tone(verdict)}>{percent(row.credit)}</b>
			<span className="text-muted">
				{percent(row.low)} to {percent(row.high)}
			</span>
			<span className={`w-4 text-center ${tone(verdict)}`} title={meaning({ verdict })}>
				<span aria-hidden="true">{SYMBOL[verdict]}</span>
				<span className="sr-only">, {meaning({ verdict })}</span>
			</span>
			{missing > 0 && <span className="text-muted">{missing} missing</span>}
		</span>
	);
}

import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/useWidth";
import { count, figure, percent, range } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { Counted } from "../../ui/Counted";
import { Segments } from "../../ui/Segments";

type Body = Schemas["PaceBody"];
type Row = Schemas["PaceRow"];

const NAME = 128;
const COUNT = 62;
const SHARE = 84;
const YEAR = 92;
const ENDS = 100;

/** The lens Pace: how many steps each group's students made, how much a year, where that ends. */
export function PaceView({ answer, question, ask, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "pace") return null;
	const rows = [...body.reference, ...body.rows];
	const wide = Math.max(140, width - NAME - COUNT - SHARE - YEAR - ENDS - 60);
	const template = [NAME, COUNT, wide, SHARE, YEAR, ENDS].map((one) => `${one}px`).join(" ");
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow min-h-[300px]">
			<div className="no-print mb-2 flex items-center gap-2 text-[13px]">
				<span className="font-semibold">Steps that count</span>
				<Segments
					label="How many steps count as made"
					options={["1", "2"].map((key) => ({ key, words: `${key} or more` }))}
					chosen={String(body.wanted)}
					choose={(key) => ask({ ...question, options: { steps: Number(key) } })}
				/>
			</div>
			<Heads body={body} template={template} />
			<ul>
				{rows.map((row) => (
					<li
						key={`${row.pinned} ${row.key}`}
						className={`grid min-h-[34px] items-center gap-x-3 ${row.pinned ? "bg-ink/[0.045]" : ""}`}
						style={{ gridTemplateColumns: template }}
					>
						<Name row={row} open={open} />
						<Counted row={row} />
						<Made row={row} wide={wide} open={open} />
						<Enough row={row} open={open} />
						<Told told={row.pace} of={row.n} />
						<Told told={row.ends} of={row.n} />
					</li>
				))}
			</ul>
		</figure>
	);
}

function Heads({ body, template }: { body: Body; template: string }) {
	return (
		<div
			className="grid items-end gap-x-3 border-b border-line pb-1 text-xs leading-tight text-muted"
			style={{ gridTemplateColumns: template }}
		>
			<span className="font-semibold">{body.dimension}</span>
			<span className="text-right">n</span>
			<span>
				<b>Steps made</b> since {body.before}: down, none, up
			</span>
			<b>{body.wanted} or more</b>
			<span>
				<b>A year</b>, from {body.first} on
			</span>
			<span>
				<b>Ends at</b>, a year on
			</span>
		</div>
	);
}

function Name({ row, open }: { row: Row; open: LensProps["open"] }) {
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

const LOOKS: Record<number, [string, string]> = {
	[-2]: ["bg-behind", "fell two steps or more"],
	[-1]: ["bg-behind/40", "fell one step"],
	0: ["bg-line", "made no step"],
	1: ["bg-ahead/40", "made one step"],
	2: ["bg-ahead", "made two steps or more"],
};

/** How many made how many steps, as one bar; each part opens its students. */
function Made({ row, wide, open }: { row: Row; wide: number; open: LensProps["open"] }) {
	if (row.undefined) return <span className="text-xs text-muted">◇ too few to show</span>;
	if (!row.made?.length) return <span className="text-xs text-muted">no levels</span>;
	return (
		<span className="flex h-[18px] border-x border-line">
			{row.made.map((one) => {
				const [look, words] = LOOKS[one.steps] ?? ["bg-line", ""];
				const { opens } = one;
				const said = `${count(one.n, "student")} ${words}, ${percent(one.share)}`;
				const style = { width: wide * (one.share ?? 0) };
				const shown = style.width > 20 ? one.n : "";
				const inside = `block overflow-hidden border-r border-paper text-center text-[11px] leading-[18px] ${look} ${Math.abs(one.steps) === 2 ? "text-paper" : "text-ink"}`;
				if (one.n === 0) return null;
				if (!opens)
					return (
						<span key={one.steps} className={inside} style={style} title={said}>
							{shown}
						</span>
					);
				return (
					<button
						key={one.steps}
						type="button"
						className={`${inside} hover:opacity-80`}
						style={style}
						title={said}
						aria-label={said}
						onClick={() => open(opens)}
					>
						{shown}
					</button>
				);
			})}
		</span>
	);
}

function Enough({ row, open }: { row: Row; open: LensProps["open"] }) {
	if (row.share == null) return <span className="text-muted">–</span>;
	const mark = row.enough?.opens;
	const words = <b>{percent(row.share)}</b>;
	return (
		<span className="leading-tight">
			{mark ? (
				<button type="button" className="hover:underline" onClick={() => open(mark)}>
					{words}
				</button>
			) : (
				words
			)}
			<span className="block text-[11px] text-muted">
				{percent(row.low)} to {percent(row.high)}
			</span>
		</span>
	);
}

/** A mean with its interval; n, where it is of others than the row's. */
function Told({ told, of }: { told: Schemas["Told"]; of: number }) {
	if (told.mean == null) return <span className="text-xs text-muted">–</span>;
	return (
		<span className="leading-tight">
			<span className="text-[13px] font-semibold">{figure(told.mean)}</span>
			<span className="block text-[11px] text-muted">
				{range(told.low, told.high)}
				{told.n !== of && <span className="block">of {told.n}</span>}
			</span>
		</span>
	);
}

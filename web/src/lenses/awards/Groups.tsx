import type { Open } from "../../api/client";
import { AsOf } from "../../charts/AsOf";
import { Stack } from "../../charts/awardStates";
import { percent } from "../../lib/numbers";
import { MEANING, SYMBOL, tone } from "../../lib/verdicts";
import { type Body, type Row, statesOf } from "./model";

interface Props {
	body: Body;
	open: (mark: Open) => void;
}

/** The award by group: the share that has met it with its interval, then with what is estimated. */
export function Groups({ body, open }: Props) {
	const rows = [...body.reference, ...body.rows];
	const hopes = body.steps.length > 2;
	return (
		<section aria-label={`By ${body.dimension || "group"}`} className="min-w-0">
			<div className={`${COLUMNS} border-b border-line pb-0.5 text-xs text-muted`}>
				<span className="font-semibold">{body.dimension || "met"}</span>
				<span className="text-right">n</span>
				<span>the award</span>
				<span className="text-right">met{hopes ? ", on course" : ""}</span>
			</div>
			<ul>
				{rows.map((row) => (
					<Group key={`${row.pinned} ${row.key}`} {...{ row, body, open }} />
				))}
			</ul>
			<p className="mt-1 text-xs text-muted">
				One cohort says little about a group: see the intervals.
			</p>
		</section>
	);
}

const COLUMNS =
	"grid grid-cols-[minmax(92px,1fr)_30px_minmax(60px,1.3fr)_84px] items-center gap-x-2";

function Group({ row, body, open }: Props & { row: Row }) {
	const verdict = row.verdict ?? "none";
	const marked = verdict === "ahead" || verdict === "behind";
	return (
		<li className={`${COLUMNS} min-h-[30px] rounded px-0.5 ${row.pinned ? "bg-ink/[0.045]" : ""}`}>
			<span className={`truncate ${row.pinned ? "font-bold" : "font-semibold"}`} title={row.label}>
				{row.label}
				<AsOf day={row.as_of} />
			</span>
			<span className="text-right text-[13px] text-muted">{row.n}</span>
			{row.counts.length ? (
				<Stack
					label={row.label}
					narrow
					counts={row.counts}
					bars={row.bars}
					states={statesOf(body)}
					open={open}
				/>
			) : (
				<span className="text-xs text-muted">{row.undefined ? "◇ too few" : ""}</span>
			)}
			<Shares row={row} marked={marked ? verdict : null} hopes={body.steps.length > 2} />
		</li>
	);
}

interface SharesProps {
	row: Row;
	marked: "ahead" | "behind" | null;
	hopes: boolean;
}

function Shares({ row, marked, hopes }: SharesProps) {
	if (row.pass_share == null) return <span />;
	return (
		<span className="text-right leading-tight">
			<span className="font-bold">{percent(row.pass_share)}</span>
			{marked && (
				<span className={`ml-1 ${tone(marked)}`} title={MEANING[marked]}>
					<span aria-hidden="true">{SYMBOL[marked]}</span>
					<span className="sr-only">, {MEANING[marked]}</span>
				</span>
			)}
			{hopes && (
				<span className="ml-1.5 text-[13px] text-muted">{percent(row.at_or_above[1])}</span>
			)}
			{row.pass_low != null && row.pass_high != null && (
				<span className="block text-[11px] text-muted">
					<span className="sr-only">95% interval of the share that met it </span>
					{percent(row.pass_low)} to {percent(row.pass_high)}
				</span>
			)}
		</span>
	);
}

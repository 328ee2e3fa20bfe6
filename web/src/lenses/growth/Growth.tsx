import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/useWidth";
import type { LensProps } from "../../question/model/lens";
import { Counted } from "../../ui/Counted";
import { Segments } from "../../ui/Segments";
import { Fell, Met, Middle, Name, Told } from "./cells";
import { type GrowthColumns, growthColumns, ROW } from "./layout";

type Body = Schemas["GrowthBody"];

/** The lens Growth: where each group's students stand among similar starters, how many met the
 * table's growth, and how many fell behind the nation though they gained. */
export function Growth({ answer, question, ask, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "growth") return null;
	const rows = [...body.reference, ...body.rows];
	const columns = growthColumns(rows, body.goals.length, width);
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow min-h-[300px]">
			<Starts body={body} choose={(priors) => ask({ ...question, options: { priors } })} />
			<Heads body={body} columns={columns} />
			<ul>
				{rows.map((row) => (
					<li
						key={`${row.pinned} ${row.key}`}
						className={`grid items-center gap-x-3 ${row.pinned ? "bg-ink/[0.045]" : ""}`}
						style={{ gridTemplateColumns: columns.template, minHeight: ROW }}
					>
						<Name row={row} open={open} />
						<Counted row={row} />
						<Middle row={row} columns={columns} />
						<Told row={row} />
						{columns.met && <Met row={row} open={open} />}
						{columns.fell && <Fell row={row} open={open} />}
					</li>
				))}
			</ul>
			<Axis columns={columns} />
		</figure>
	);
}

/** On how many earlier results growth percentiles stand. */
function Starts({ body, choose }: { body: Body; choose: (priors: number) => void }) {
	return (
		<div className="no-print mb-2 flex items-center gap-2 text-[13px]">
			<span className="font-semibold">Started alike in</span>
			<Segments
				label="How many earlier results"
				options={["1", "2", "3"].map((key) => ({
					key,
					words: key === "1" ? "one result" : `${key} results`,
				}))}
				chosen={String(body.priors.length)}
				choose={(key) => choose(Number(key))}
			/>
		</div>
	);
}

function Heads({ body, columns }: { body: Body; columns: GrowthColumns }) {
	return (
		<div
			className="grid items-end gap-x-3 border-b border-line pb-1 text-xs leading-tight text-muted"
			style={{ gridTemplateColumns: columns.template }}
		>
			<span className="font-semibold">{body.dimension}</span>
			<span className="text-right">n</span>
			<span>
				<b>Growth percentile</b>, middle of the group; 50 is the district's
			</span>
			<span />
			{columns.met && (
				<span>
					<b>Met the table's growth</b>: expected, <span className="text-ahead">ambitious</span>
				</span>
			)}
			{columns.fell && (
				<span>
					<b>Rank fell</b> though the score rose
				</span>
			)}
		</div>
	);
}

function Axis({ columns }: { columns: GrowthColumns }) {
	return (
		<div
			className="grid gap-x-3 text-[11px] text-muted"
			style={{ gridTemplateColumns: columns.template }}
			aria-hidden="true"
		>
			<span />
			<span />
			<span className="relative h-4">
				{[1, 25, 50, 75, 99].map((value) => (
					<span
						key={value}
						className="absolute -translate-x-1/2"
						style={{ left: columns.x(value) }}
					>
						{value}
					</span>
				))}
			</span>
		</div>
	);
}

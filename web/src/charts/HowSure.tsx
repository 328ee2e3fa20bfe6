import type { Answer, Open, Schemas } from "../api/client";
import { figure, range, signed } from "../lib/numbers";
import { meaning, SYMBOL, tone } from "../lib/verdicts";

interface Props {
	answer: Answer;
	open: (mark: Open) => void;
}

/** The lens How sure: each row by every way of drawing the line, and in the years before. */
export function HowSure({ answer, open }: Props) {
	if (answer.body.show !== "sure") return null;
	const body = answer.body;
	const before = body.years.slice(0, -1);
	return (
		<div className="overflow-auto">
			<table className="w-full text-[13px]">
				<caption className="sr-only">{answer.sentence}</caption>
				<thead>
					<tr className="text-left text-xs text-muted">
						<td />
						<td />
						<th scope="colgroup" colSpan={body.models.length + 1} className="px-1.5 font-semibold">
							this year, by other lines
						</th>
						<th
							scope="colgroup"
							colSpan={before.length + 1}
							className="border-l border-line px-1.5 font-semibold"
						>
							{before.length ? "other cohorts, as asked" : "one cohort only"}
						</th>
					</tr>
					<tr className="border-b border-line">
						<Head label={body.dimension} side="text-left" />
						<Head label="n" />
						{body.models.map((model) => (
							<Head key={model.key} label={model.asked ? "as asked" : model.label} />
						))}
						<Head label="verdict" />
						{before.map((year) => (
							<Head key={year} label={year} edge />
						))}
						{before.length > 0 && <Head label="together" />}
					</tr>
				</thead>
				<tbody>
					{body.rows.map((row) => (
						<Line key={row.key} row={row} years={before.length} open={open} />
					))}
				</tbody>
			</table>
			<Beneath body={body} />
		</div>
	);
}

function Head({
	label,
	side = "text-right",
	edge,
}: {
	label: string;
	side?: string;
	edge?: boolean;
}) {
	return (
		<th
			scope="col"
			className={`max-w-28 px-1.5 py-2 align-bottom font-semibold text-muted ${side} ${edge ? "border-l border-line" : ""}`}
		>
			{label}
		</th>
	);
}

interface LineProps {
	row: Schemas["SureRow"];
	years: number;
	open: Props["open"];
}

function Line({ row, years, open }: LineProps) {
	const { opens } = row;
	return (
		<tr className="border-b border-line/60">
			<th scope="row" className="px-1.5 py-1.5 text-left font-semibold whitespace-nowrap">
				{opens ? (
					<button type="button" className="hover:underline" onClick={() => open(opens)}>
						{row.label}
					</button>
				) : (
					row.label
				)}
			</th>
			<td className="px-1.5 text-right text-muted">
				{figure(row.n, 0)}
				<span className="sr-only"> counted, {row.missing} missing</span>
			</td>
			{row.figures.map((one, at) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: models keep their place
				<Figure key={at} one={one} />
			))}
			<td
				className={`px-1.5 text-right whitespace-nowrap ${row.flips ? "font-bold" : "text-muted"}`}
			>
				{row.flips ? "changes" : "holds"}
			</td>
			{row.years.slice(0, years).map((one, at) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: years keep their place
				<Figure key={at} one={one} edge={at === 0} />
			))}
			{years > 0 && (
				<td
					className="px-1.5 text-right whitespace-nowrap"
					title={row.mean == null ? "" : `95% interval ${range(row.mean_low, row.mean_high)}`}
				>
					{signed(row.mean)}
					<span className="block text-[11px] text-muted">{range(row.mean_low, row.mean_high)}</span>
				</td>
			)}
		</tr>
	);
}

function Figure({ one, edge }: { one: Schemas["SureFigure"] | null; edge?: boolean }) {
	const side = `px-1.5 text-right whitespace-nowrap ${edge ? "border-l border-line" : ""}`;
	if (!one || one.span == null) return <td className={`${side} text-muted`}>–</td>;
	const words = meaning(one);
	return (
		<td className={side} title={[`${one.n} counted`, words].filter(Boolean).join(" · ")}>
			<span className={tone(one.verdict)}>
				{signed(one.span)}{" "}
				<span aria-hidden="true" className="inline-block w-3 text-center">
					{SYMBOL[one.verdict]}
				</span>
			</span>
			<span className="sr-only">
				, {words}, {one.n} counted
			</span>
			<span className="block text-[11px] text-muted">{range(one.low, one.high)}</span>
		</td>
	);
}

function Beneath({ body }: { body: Schemas["SureBody"] }) {
	return (
		<div className="mt-2 text-xs text-muted">
			{body.year_to_year != null && (
				<p>
					Estimated change of a row from year to year, beyond its own error:{" "}
					{figure(body.year_to_year)} {body.unit} (sd).
				</p>
			)}
			{body.not_tried.map((why) => (
				<p key={why}>Not tried – {why}</p>
			))}
		</div>
	);
}

import { Link } from "@tanstack/react-router";
import { figure, range, signed } from "../../lib/numbers";
import { MEANING, SYMBOL, tone } from "../../lib/verdicts";
import { day } from "../../lib/words";
import { shade } from "../../question/listing/cells";
import { type Column, DataTable } from "../../ui/DataTable";
import type { Result, StudentPageData } from "./timeline";

/** Every result against every yardstick that applies. */
export function StudentResults({ page }: { page: StudentPageData }) {
	const claims = page.results.some((one) => one.claims?.length);
	const also = page.results.some((one) => one.also?.length);
	const measured = page.results.some((one) => one.measured != null);
	const columns = COLUMNS.filter(
		(one) =>
			(one.key !== "claims" || claims) &&
			(one.key !== "also" || also) &&
			(one.key !== "measured" || measured),
	);
	return (
		<section aria-label="Results" className="mt-3">
			<DataTable
				caption="Results, newest first"
				rows={page.results}
				keyOf={(row) => `${row.label} ${row.date}`}
				columns={columns}
			/>
		</section>
	);
}

const COLUMNS: Column<Result>[] = [
	{
		key: "label",
		label: "result",
		side: "left",
		cell: (row) => (
			<>
				{row.label}
				<small className="block font-normal text-muted">
					{row.assessment}, {day(row.date)}
					{row.inside && (
						<>
							{" · "}
							<Link to="/tests" search={{ q: row.inside }} className="text-ahead underline">
								question by question
							</Link>
						</>
					)}
				</small>
			</>
		),
	},
	{
		key: "score",
		label: "score",
		look: (row) => shade(row.tone),
		cell: (row) =>
			row.value == null && !row.level ? (
				<span className="text-muted">– {row.why}</span>
			) : (
				<>
					{figure(row.value, row.decimals)} <small className="text-ink">{row.level}</small>
				</>
			),
	},
	{
		key: "expected",
		label: "similar starters",
		cell: (row) =>
			row.expected == null ? (
				<small className="text-muted">{row.value != null && (row.started || "no start")}</small>
			) : (
				<span title={row.started}>
					{figure(row.expected)}
					<small className="block text-muted">
						{row.error != null &&
							range(row.expected - 1.645 * row.error, row.expected + 1.645 * row.error)}
					</small>
				</span>
			),
	},
	{
		key: "span",
		label: "span",
		cell: (row) => {
			const sign = row.sign ?? "";
			return (
				<span className={sign === "none" ? "" : tone(sign)}>
					{signed(row.span)} <span aria-hidden="true">{SYMBOL[sign]}</span>
					{MEANING[sign] && <span className="sr-only">{sign}</span>}
				</span>
			);
		},
	},
	{
		key: "claims",
		label: "target, predicted",
		side: "left",
		cell: (row) =>
			row.claims?.map((one) => (
				<span key={one.label} className="block">
					{one.label} {one.value}
					{one.away != null && `, ${signed(one.away, one.in_steps ? 0 : 1)}`}
				</span>
			)),
	},
	{
		key: "also",
		label: "converted, pace",
		side: "left",
		cell: (row) =>
			row.also?.map((one) => (
				<span key={one.label} className="block">
					{one.label} <b className="font-semibold">{one.value}</b>
				</span>
			)),
	},
	{
		key: "percentile",
		label: "national rank",
		cell: (row) => figure(row.percentile, 0),
	},
	{
		key: "measured",
		label: "error of measurement",
		cell: (row) => (row.measured == null ? "" : `± ${figure(row.measured)}`),
	},
];

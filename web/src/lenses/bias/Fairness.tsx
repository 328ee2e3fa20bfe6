import type { Schemas } from "../../api/client";
import { count, figure, range, signed } from "../../lib/numbers";
import { SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";

type Body = Schemas["BiasBody"];
type Row = Schemas["BiasRow"];

/** The lens Fairness: each question for each group beside others with the same total. */
export function Fairness({ answer, open }: LensProps) {
	if (answer.body.show !== "bias") return null;
	const body = answer.body;
	return (
		<>
			<DataTable
				caption={answer.sentence}
				rows={body.rows}
				keyOf={(row) => row.key}
				columns={columns(body, open)}
			/>
			<p className="mt-2 text-xs text-muted">
				Points of the question's marks beside others with the same total · harder ▼, easier ▲ where
				it is more than slight and stands
				{body.missing > 0 &&
					` · ${count(body.missing, "student")} who did not reach every question left out`}
			</p>
		</>
	);
}

function columns(body: Body, open: LensProps["open"]): Column<Row>[] {
	const wide = "whitespace-nowrap";
	return [
		{ key: "label", label: "question", side: "left", className: wide, cell: (row) => row.label },
		{
			key: "about",
			label: "about",
			side: "left",
			className: "text-muted",
			cell: (row) => row.about?.strand ?? row.about?.topic ?? "",
		},
		{ key: "marks", label: "marks", cell: (row) => figure(row.maximum, 0) },
		...body.groups.map((group, at) => ({
			key: group.key,
			label: <Group group={group} open={open} />,
			className: wide,
			edge: true,
			cell: (row: Row) => <Figure one={row.of[at]} />,
		})),
	];
}

function Group({ group, open }: { group: Schemas["BiasGroup"]; open: LensProps["open"] }) {
	const { opens } = group;
	const beneath = (
		<span className="block text-[11px] font-normal text-muted">
			{group.why ? "too few to judge" : `${group.reached} beside ${group.rest}`}
			<span className="sr-only">
				, {group.n} sat it, {group.missing} missing
			</span>
		</span>
	);
	if (!opens)
		return (
			<>
				{group.label}
				{beneath}
			</>
		);
	return (
		<button
			type="button"
			className="text-right hover:underline"
			title={group.why || `${group.n} sat it, ${group.missing} missing`}
			onClick={() => open(opens)}
		>
			{group.label}
			{beneath}
		</button>
	);
}

function times(share: number | null | undefined): number | null {
	return share == null ? null : 100 * share;
}

const WORDS: Record<string, string> = {
	behind: "harder than for others with the same total",
	ahead: "easier than for others with the same total",
	unclear: "not shown to differ",
	few: "too few to judge",
};

function Figure({ one }: { one: Schemas["BiasOfGroup"] | undefined }) {
	if (one?.difference == null) return <span className="text-muted">–</span>;
	const verdict = one.verdict ?? "few";
	const words = WORDS[verdict] ?? "";
	const odds =
		one.delta == null ? "" : `Δ ${signed(one.delta, 1)}, ${range(one.delta_low, one.delta_high)}`;
	return (
		<span className={tone(verdict)} title={[words, odds].filter(Boolean).join(" · ")}>
			{signed(100 * one.difference, 0)}{" "}
			<span aria-hidden="true" className="inline-block w-3 text-center">
				{SYMBOL[verdict]}
			</span>
			<span className="sr-only"> points, {words}</span>
			<span className="block text-[11px] text-muted">
				{range(times(one.low), times(one.high))}
				{verdict !== "unclear" && one.size && ` · ${one.size}`}
			</span>
		</span>
	);
}

import type { Schemas } from "../../api/client";
import { figure, range, signed } from "../../lib/numbers";
import { meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";
import { Controls } from "./Controls";
import { type Item, inFront, ordered } from "./layout";
import { shownPaired } from "./Paired";

type Body = Schemas["ItemsBody"];

/** Every figure of the lens Questions: all groups, however many. */
export function Numbers({ answer, question, look, ask, open }: LensProps) {
	if (answer.body.show !== "items") return null;
	const body = answer.body;
	const front = inFront(body, look.view);
	return (
		<>
			<Controls {...{ answer, body, front, question, ask, open }} />
			<DataTable
				caption={answer.sentence}
				rows={ordered(body, front)}
				keyOf={(item) => item.key}
				columns={columns(body, open)}
			/>
		</>
	);
}

function columns(body: Body, open: LensProps["open"]): Column<Item>[] {
	const wide = "whitespace-nowrap";
	const first: Column<Item>[] = [
		{ key: "label", label: body.by, side: "left", className: wide, cell: (item) => item.label },
		{ key: "marks", label: "marks", cell: (item) => figure(item.maximum, 0) },
		quality(body),
	];
	return [
		...first,
		...body.groups.flatMap((group, at): Column<Item>[] => [
			{
				key: `share ${group.key}`,
				group: `${group.label} (${group.n})`,
				label: "share",
				className: wide,
				edge: true,
				cell: (item) => <Share one={item.shares[at]} open={open} />,
			},
			...(body.against
				? [
						{
							key: `apart ${group.key}`,
							group: `${group.label} (${group.n})`,
							label: `beside ${body.against}`,
							className: wide,
							cell: (item: Item) => <Apart one={item.beside?.[at]} worth={item.maximum} />,
						},
					]
				: []),
		]),
		...shownPaired(body).map(
			(one, at): Column<Item> => ({
				key: `paired ${one.label}`,
				group: `${one.label} (${one.n})`,
				label: "share",
				className: wide,
				edge: true,
				cell: (item) => <Share one={item.paired?.[at]} open={open} />,
			}),
		),
	];
}

/** How a question goes with the rest of the test; how exact a strand is. */
function quality(body: Body): Column<Item> {
	if (body.by === "question")
		return {
			key: "discrimination",
			label: "with the rest",
			cell: (item) => (
				<span title={item.again ?? "Correlation with the sum of the other questions"}>
					{figure(item.discrimination, 2)}
					{item.again && " ▾ read again"}
				</span>
			),
		};
	return {
		key: "alpha",
		label: "α",
		cell: (item) => (
			<span title={item.report ? `Reported of its own: ${item.report}` : ""}>
				{figure(item.alpha, 2)}
			</span>
		),
	};
}

interface ShareProps {
	/** Of a paired class there is nobody to open. */
	one: Schemas["ItemShare"] | Schemas["PairedShare"] | undefined;
	open: LensProps["open"];
}

function Share({ one, open }: ShareProps) {
	if (one?.share == null) return <span className="text-muted">–</span>;
	const opens = "opens" in one ? one.opens : null;
	const words = (
		<>
			{figure(100 * one.share, 0)}%
			<span className="block text-[11px] text-muted">
				{range(times(one.low), times(one.high))} · {figure(one.n, 0)}
				<span className="sr-only"> counted, {one.missing} missing</span>
			</span>
		</>
	);
	if (!opens) return words;
	return (
		<button type="button" className="text-right hover:underline" onClick={() => open(opens)}>
			{words}
		</button>
	);
}

interface ApartProps {
	one: Schemas["ItemBeside"] | undefined;
	/** Marks of the row: a distance is told in them too. */
	worth: number;
}

function Apart({ one, worth }: ApartProps) {
	if (one?.span == null) return <span className="text-muted">–</span>;
	const words = meaning(one);
	return (
		<span className={tone(one.verdict ?? "none")} title={words}>
			{signed(100 * one.span, 0)}{" "}
			<span aria-hidden="true" className="inline-block w-3 text-center">
				{SYMBOL[one.verdict ?? "none"]}
			</span>
			<span className="sr-only">, {words}</span>
			<span className="block text-[11px] text-muted">
				{range(times(one.low), times(one.high))}
				{worth > 1 && ` · ${signed(one.span * worth)} marks`}
			</span>
		</span>
	);
}

function times(share: number | null | undefined): number | null {
	return share == null ? null : 100 * share;
}

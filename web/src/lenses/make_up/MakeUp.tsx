import type { Schemas } from "../../api/client";
import { figure, percent } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { DataTable } from "../../ui/DataTable";

type Entry = Schemas["MakeUpEntry"];
const WORDS: Record<Entry["verdict"], string> = {
	more: "more than in the rest",
	fewer: "fewer than in the rest",
	alike: "within chance",
	few: "◇ too few",
};

/** Each category's share in the set beside its share in the rest. */
export function MakeUp({ answer, open }: LensProps) {
	const body = answer.body;
	if (body.show !== "make_up") return null;
	return (
		<figure aria-label={answer.sentence} className="print-flow flex min-h-0 flex-1 flex-col">
			<p className="mb-2">
				<b>{figure(body.set_size, 0)}</b> in the set ({body.set_label}),{" "}
				<b>{figure(body.rest_size, 0)}</b> in the rest
				{body.left_out > 0 && (
					<span className="text-muted">
						, {figure(body.left_out, 0)} left out: they lack the figures that decide
					</span>
				)}
				. Bar: share in the set; line: share in the rest.
			</p>
			<DataTable
				caption={answer.sentence}
				rows={body.entries}
				keyOf={(entry) => `${entry.dimension} ${entry.label}`}
				under={(entry) => entry.dimension}
				columns={[
					{
						key: "label",
						label: "Category",
						side: "left",
						className: "pl-4 font-normal",
						cell: (entry) => <Name entry={entry} open={open} />,
					},
					{
						key: "set",
						label: "in the set",
						cell: (entry) => <Share n={entry.in_set} share={entry.set_share} />,
					},
					{
						key: "bar",
						label: "share",
						side: "left",
						width: 260,
						cell: (entry) => <Bar entry={entry} />,
					},
					{
						key: "rest",
						label: "in the rest",
						cell: (entry) => <Share n={entry.in_rest} share={entry.rest_share} />,
					},
					{
						key: "verdict",
						label: "against chance",
						side: "left",
						cell: (entry) => (
							<span className={told(entry) ? "font-semibold" : "text-muted"}>
								{WORDS[entry.verdict]}
							</span>
						),
					},
				]}
			/>
		</figure>
	);
}

function told(entry: Entry): boolean {
	return entry.verdict === "more" || entry.verdict === "fewer";
}

function Name({ entry, open }: { entry: Entry; open: LensProps["open"] }) {
	const mark = entry.opens;
	if (!mark) return entry.label;
	return (
		<button type="button" className="hover:underline" onClick={() => open(mark)}>
			{entry.label}
		</button>
	);
}

function Share({ n, share }: { n: number; share: number }) {
	return (
		<>
			{figure(n, 0)} <span className="text-muted">{percent(share)}</span>
		</>
	);
}

/** The share in the set as a bar, that in the rest as a line. */
function Bar({ entry }: { entry: Entry }) {
	const rest = `${100 * entry.rest_share}%`;
	return (
		<svg width="100%" height="16" aria-hidden="true">
			<rect width="100%" height="16" fill="var(--color-wash)" />
			<rect
				y="3"
				width={`${100 * entry.set_share}%`}
				height="10"
				fill={told(entry) ? "var(--color-ahead)" : "var(--color-neither)"}
			/>
			<line x1={rest} x2={rest} y1="0" y2="16" stroke="var(--color-ink)" strokeWidth="2" />
		</svg>
	);
}

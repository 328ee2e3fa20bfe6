import type { Answer, Open, Schemas } from "../api/client";
import { figure } from "../lib/numbers";

interface Props {
	answer: Answer;
	open: (mark: Open) => void;
}

type Entry = Schemas["MakeUpEntry"];
const WORDS: Record<Entry["verdict"], string> = {
	more: "more than in the rest",
	fewer: "fewer than in the rest",
	alike: "within chance",
	few: "◇ too few",
};

/** Each category's share in the set beside its share in the rest. */
export function MakeUp({ answer, open }: Props) {
	const body = answer.body;
	if (body.show !== "make_up") return null;
	const groups = [...new Set(body.entries.map((entry) => entry.dimension))];
	return (
		<figure aria-label={answer.sentence} className="print-flow">
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
			<table className="w-full text-left">
				<thead>
					<tr className="border-b border-line text-[13px] text-muted">
						<th scope="col">Category</th>
						<th scope="col" className="text-right">
							in the set
						</th>
						<th scope="col" className="w-[34%] px-3">
							share
						</th>
						<th scope="col" className="text-right">
							in the rest
						</th>
						<th scope="col" className="pl-3">
							against chance
						</th>
					</tr>
				</thead>
				{groups.map((group) => (
					<tbody key={group}>
						<tr>
							<th scope="rowgroup" colSpan={5} className="pt-2 font-bold">
								{group}
							</th>
						</tr>
						{body.entries
							.filter((entry) => entry.dimension === group)
							.map((entry) => (
								<Line key={entry.label} {...{ entry, open }} />
							))}
					</tbody>
				))}
			</table>
		</figure>
	);
}

function Line({ entry, open }: { entry: Entry; open: Props["open"] }) {
	const mark = entry.opens;
	const told = entry.verdict === "more" || entry.verdict === "fewer";
	return (
		<tr className="border-b border-line/60">
			<th scope="row" className="pl-4 font-normal">
				<button type="button" className="hover:underline" onClick={() => mark && open(mark)}>
					{entry.label}
				</button>
			</th>
			<td className="text-right">
				{figure(entry.in_set, 0)}{" "}
				<span className="text-muted">{figure(100 * entry.set_share, 0)}%</span>
			</td>
			<td className="px-3">
				<svg width="100%" height="16" aria-hidden="true">
					<rect width="100%" height="16" fill="var(--color-wash)" />
					<rect
						y="3"
						width={`${100 * entry.set_share}%`}
						height="10"
						fill={told ? "var(--color-ahead)" : "var(--color-neither)"}
					/>
					<line
						x1={`${100 * entry.rest_share}%`}
						x2={`${100 * entry.rest_share}%`}
						y1="0"
						y2="16"
						stroke="var(--color-ink)"
						strokeWidth="2"
					/>
				</svg>
			</td>
			<td className="text-right">
				{figure(entry.in_rest, 0)}{" "}
				<span className="text-muted">{figure(100 * entry.rest_share, 0)}%</span>
			</td>
			<td className={`pl-3 text-[13px] ${told ? "font-semibold" : "text-muted"}`}>
				{WORDS[entry.verdict]}
			</td>
		</tr>
	);
}

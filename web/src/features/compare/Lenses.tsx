import type { Catalogue, Question } from "../../api/client";
import { type Show, whyNot } from "./question";

export const LENSES: { key: Show; name: string }[] = [
	{ key: "spans", name: "Spans" },
	{ key: "levels", name: "Levels" },
	{ key: "spread", name: "Spread" },
	{ key: "start_to_now", name: "Start to now" },
	{ key: "over_time", name: "Over time" },
	{ key: "table", name: "Table" },
];

interface Props {
	question: Question;
	catalogue: Catalogue;
	choose: (lens: Show) => void;
	numbers: boolean;
	setNumbers: (shown: boolean) => void;
}

/** One question in several ways; a lens that cannot serve is dimmed and says why. */
export function Lenses({ question, catalogue, choose, numbers, setNumbers }: Props) {
	const show = question.show ?? "spans";
	const drawn = ["levels", "spread", "start_to_now", "over_time"].includes(show);
	return (
		<div className="mb-2 flex shrink-0 items-center">
			<div role="toolbar" aria-label="Lens" className="no-print flex">
				{LENSES.map((lens) => {
					const why = whyNot(lens.key, question, catalogue);
					return (
						<button
							key={lens.key}
							type="button"
							aria-pressed={show === lens.key}
							aria-disabled={Boolean(why)}
							title={why}
							onClick={() => !why && choose(lens.key)}
							className={`rounded px-3 py-1 ${show === lens.key ? "bg-ink font-semibold text-paper" : why ? "cursor-default text-muted/90 italic" : "text-muted hover:bg-wash"}`}
						>
							{lens.name}
						</button>
					);
				})}
			</div>
			<span className="ml-auto text-xs text-muted">
				{drawn ? (
					<button
						type="button"
						className="no-print text-[13px] font-semibold text-ahead hover:underline"
						aria-pressed={numbers}
						onClick={() => setNumbers(!numbers)}
					>
						{numbers ? "Chart" : "Numbers"}
					</button>
				) : (
					order(question)
				)}
			</span>
		</div>
	);
}

/** The order in words; a sort that shapes the answer is never out of sight. */
function order(question: Question): string {
	const sort = question.sort?.[0];
	if (sort) return `sorted by ${sort.by}, ${sort.dir === "desc" ? "highest" : "lowest"} first`;
	if (question.show === "make_up") return "";
	return question.against
		? "sorted by span, furthest behind first"
		: "sorted by mean, lowest first";
}

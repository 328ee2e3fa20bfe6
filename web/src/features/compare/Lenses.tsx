import type { Catalogue, Question } from "../../api/client";
import { Popover } from "../../ui/Popover";
import { Tick } from "./Choice";
import { type Show, sittingOf, whyNot } from "./question";

export const LENSES: { key: Show; name: string }[] = [
	{ key: "spans", name: "Spans" },
	{ key: "levels", name: "Levels" },
	{ key: "spread", name: "Spread" },
	{ key: "start_to_now", name: "Start to now" },
	{ key: "over_time", name: "Over time" },
	{ key: "table", name: "Table" },
	{ key: "sure", name: "How sure" },
];

interface Props {
	question: Question;
	catalogue: Catalogue;
	choose: (lens: Show) => void;
	ask: (question: Question) => void;
	numbers: boolean;
	setNumbers: (shown: boolean) => void;
}

/** One question in several ways; a lens that cannot serve is dimmed and says why. */
export function Lenses({ question, catalogue, choose, ask, numbers, setNumbers }: Props) {
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
							className={`rounded px-2.5 py-1 whitespace-nowrap ${show === lens.key ? "bg-ink font-semibold text-paper" : why ? "cursor-default text-muted/90 italic" : "text-muted hover:bg-wash"}`}
						>
							{lens.name}
						</button>
					);
				})}
			</div>
			<span className="ml-auto flex min-w-0 items-center gap-3 pl-2 text-xs text-muted">
				{show !== "start_to_now" &&
					show !== "over_time" &&
					show !== "make_up" &&
					show !== "sure" && <Pinned {...{ question, catalogue, ask }} />}
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
					show !== "sure" && (
						<span className="truncate" title={order(question)}>
							{order(question)}
						</span>
					)
				)}
			</span>
		</div>
	);
}

const PINNED = [
	["district", "all schools"],
	["nation", "the nation"],
] as const;

/** The rows that stay in view above every split. */
function Pinned({ question, catalogue, ask }: Pick<Props, "question" | "catalogue" | "ask">) {
	const now = question.reference ?? ["district"];
	const nation = sittingOf(question, catalogue)?.has_nation;
	return (
		<Popover
			label="Pinned rows"
			title="Pinned rows"
			width={190}
			className="no-print text-[13px] font-semibold text-ahead hover:underline"
			trigger="Pinned"
		>
			{() =>
				PINNED.filter(([key]) => key === "district" || nation).map(([key, words]) => (
					<Tick
						key={key}
						checked={now.includes(key)}
						words={words}
						change={() =>
							ask({
								...question,
								reference: now.includes(key) ? now.filter((one) => one !== key) : [...now, key],
							})
						}
					/>
				))
			}
		</Popover>
	);
}

/** The order in words; a sort that shapes the answer is never out of sight. */
function order(question: Question): string {
	const sort = question.sort?.[0];
	if (sort) return `sorted by ${sort.by}, ${sort.dir === "desc" ? "highest" : "lowest"} first`;
	if (question.show === "make_up") return "";
	const first = question.what[0];
	const share = first !== undefined && "statistic" in first;
	return question.against
		? "sorted by span, furthest behind first"
		: `sorted by ${share ? "share" : "mean"}, lowest first`;
}

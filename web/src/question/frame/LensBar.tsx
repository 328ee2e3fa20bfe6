import { Toolbar } from "react-aria-components";
import type { Catalogue, Question } from "../../api/client";
import { Tick } from "../../ui/Choice";
import { Popover } from "../../ui/Popover";
import { type Lens, whyNot } from "../model/lens";
import { sittingOf } from "../model/question";

interface Props {
	lenses: readonly Lens[];
	/** The lens that is looked through; it may stand outside the bar. */
	now: Lens | undefined;
	question: Question;
	catalogue: Catalogue;
	choose: (lens: Lens) => void;
	ask: (question: Question) => void;
	numbers: boolean;
	setNumbers: (shown: boolean) => void;
}

/** One question in several ways; a lens that cannot serve is dimmed and says why. */
export function LensBar(props: Props) {
	const { lenses, now, question, catalogue, choose, numbers, setNumbers } = props;
	const order = now?.sorted && inWords(question, now.sorted);
	return (
		<div className="mb-2 flex shrink-0 flex-wrap items-center">
			<Toolbar aria-label="Lens" className="no-print flex">
				{lenses.map((lens) => {
					const why = whyNot(lens, question, catalogue);
					return (
						<button
							key={lens.show}
							type="button"
							aria-pressed={lens === now}
							aria-disabled={Boolean(why)}
							title={why}
							onClick={() => !why && choose(lens)}
							className={`rounded px-2.5 py-1 whitespace-nowrap ${lens === now ? "bg-ink font-semibold text-paper" : why ? "cursor-default text-muted/90 italic" : "text-muted hover:bg-wash"}`}
						>
							{lens.name}
						</button>
					);
				})}
			</Toolbar>
			<span className="ml-auto flex min-w-0 items-center gap-3 pl-2 text-xs text-muted">
				{now?.pins && <Pinned {...props} />}
				{now?.Numbers && (
					<button
						type="button"
						className="no-print text-[13px] font-semibold text-ahead hover:underline"
						aria-pressed={numbers}
						onClick={() => setNumbers(!numbers)}
					>
						{numbers ? "Chart" : "Numbers"}
					</button>
				)}
				{order && (
					<span className="truncate" title={order}>
						{order}
					</span>
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
function Pinned({
	question,
	catalogue,
	ask,
}: Omit<Props, "lenses" | "now" | "choose" | "numbers" | "setNumbers">) {
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
function inWords(question: Question, usual: (question: Question) => string): string {
	const sort = question.sort?.[0];
	if (!sort) return usual(question);
	return `sorted by ${sort.by}, ${sort.dir === "desc" ? "highest" : "lowest"} first`;
}

import { X } from "lucide-react";
import type { Answer, Catalogue, Condition, Question } from "../../api/client";
import { figure } from "../../lib/numbers";
import { Popover } from "../../ui/Popover";
import { without } from "./question";
import { WhoPicker } from "./WhoPicker";

interface Props {
	answer: Answer | undefined;
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
	open: (narrow: Condition[]) => void;
}

/** The line below the sentence: removable chips on the left, coverage on the right. */
export function Conditions({ answer, question, catalogue, ask, open }: Props) {
	return (
		<div className="mt-1 flex flex-wrap items-center gap-2">
			{answer?.chips.map((chip) => (
				<span
					key={chip.path}
					className="flex items-center gap-1 rounded-full border border-line bg-white py-0.5 pr-1 pl-3"
				>
					{chip.text}
					<button
						type="button"
						className="no-print rounded-full p-1 hover:bg-amber-wash"
						aria-label={`Remove ${chip.text}`}
						onClick={() => ask(without(question, chip.path))}
					>
						<X size={12} aria-hidden="true" />
					</button>
				</span>
			))}
			<span className="no-print">
				<Popover
					label="Narrow to some students"
					title="Narrow"
					width={560}
					className="font-semibold text-ahead hover:underline"
					trigger="+ narrow"
				>
					{() => <WhoPicker question={question} catalogue={catalogue} ask={ask} />}
				</Popover>
			</span>
			{answer && <CoverageLine answer={answer} open={open} />}
		</div>
	);
}

function CoverageLine({ answer, open }: { answer: Answer; open: Props["open"] }) {
	const coverage = answer.coverage[0];
	if (!coverage) return null;
	const share = coverage.population ? coverage.counted / coverage.population : 0;
	return (
		<section
			aria-label="Coverage"
			className="ml-auto flex flex-wrap items-center gap-x-1.5 text-muted"
		>
			<svg width="150" height="8" aria-hidden="true" className="mr-1">
				<rect width="150" height="8" rx="3" fill="var(--color-amber)" />
				<rect width={150 * share} height="8" rx="3" fill="var(--color-ahead)" />
			</svg>
			<button type="button" className="hover:underline" onClick={() => open([])}>
				<b className="text-ink">{figure(coverage.counted, 0)}</b> of{" "}
				{figure(coverage.population, 0)} counted
			</button>
			{coverage.missing.map((item) => (
				<span key={item.reason}>
					·{" "}
					<button type="button" className="hover:underline" onClick={() => open(item.narrow)}>
						{figure(item.n, 0)} {item.label}
					</button>
				</span>
			))}
		</section>
	);
}

import { Ellipsis, X } from "lucide-react";
import type { Answer, Catalogue, Condition, Open, Question } from "../../api/client";
import { later } from "../../lib/later";
import { figure } from "../../lib/numbers";
import { Popover } from "../../ui/Popover";
import { conditions, either, inLens, turned, withConditions, without } from "../model/question";

const ConditionForm = later(async () => (await import("../pickers/ConditionForm")).ConditionForm);

interface Props {
	answer: Answer | undefined;
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
	open: (mark: Open) => void;
}

/** The line below the sentence: removable chips on the left, coverage on the right. */
export function Conditions({ answer, question, catalogue, ask, open }: Props) {
	const shared = { catalogue, question };
	return (
		<div className="mt-1 flex flex-wrap items-center gap-2">
			{answer?.chips.map((chip) => (
				<Chip key={chip.path} {...{ chip, ask, catalogue, question }} />
			))}
			<span className="no-print">
				<Popover
					label="Narrow to some students"
					title="Narrow"
					width={330}
					className="font-semibold text-ahead hover:underline"
					trigger="+ narrow"
				>
					{(close) => (
						<ConditionForm
							{...shared}
							word="Narrow"
							add={(made) => {
								ask(withConditions(question, [...conditions(question), made]));
								close();
							}}
						/>
					)}
				</Popover>
			</span>
			{canHighlight(question, catalogue) && <Focus {...{ answer, question, catalogue, ask }} />}
			{answer && <CoverageLine answer={answer} open={open} />}
		</div>
	);
}

interface ChipProps extends Pick<Props, "question" | "catalogue" | "ask"> {
	chip: Answer["chips"][number];
}

/** A condition in words: × removes it, the dots turn it round or add an alternative. */
function Chip({ chip, question, catalogue, ask }: ChipProps) {
	const at = chip.path.startsWith("who.all.") ? Number(chip.path.split(".").pop()) : -1;
	return (
		<span className="flex items-center gap-0.5 rounded-full border border-line bg-paper py-0.5 pr-1 pl-3">
			{chip.text}
			{at >= 0 && (
				<Popover
					label={`Change ${chip.text}`}
					title={`Change ${chip.text}`}
					width={330}
					className="no-print ml-1 grid place-items-center rounded-full p-1 text-amber-ink hover:bg-amber-wash"
					trigger={<Ellipsis size={13} aria-hidden="true" />}
				>
					{(close) => (
						<>
							<button
								type="button"
								className="mb-2 block w-full rounded px-1 py-1 text-left font-semibold text-ahead hover:bg-amber-wash"
								onClick={() => {
									ask(turned(question, at));
									close();
								}}
							>
								Turn it round: everyone else
							</button>
							<p className="border-t border-line px-1 pt-2 text-[13px] font-semibold">
								Or students who fit this instead
							</p>
							<ConditionForm
								{...{ catalogue, question }}
								word="Or these"
								add={(made) => {
									ask(either(question, at, made));
									close();
								}}
							/>
						</>
					)}
				</Popover>
			)}
			<button
				type="button"
				className="no-print rounded-full p-1 hover:bg-amber-wash"
				aria-label={`Remove ${chip.text}`}
				onClick={() => ask(without(question, chip.path))}
			>
				<X size={12} aria-hidden="true" />
			</button>
		</span>
	);
}

/** Whether the lens in use lets somebody stand out; what is highlighted can always be let go. */
function canHighlight(question: Question, catalogue: Catalogue): boolean {
	const lens = catalogue.shows.find((one) => one.show === shown(question));
	return Boolean(question.focus?.length) || !lens || lens.takes.includes("focus");
}

/** A subgroup that stands out while all rows stay; and what it is made of. */
function Focus({ answer, question, catalogue, ask }: Omit<Props, "open">) {
	const focus = question.focus ?? [];
	const made = answer?.body.show === "make_up" ? answer.body.set_label : undefined;
	return (
		<span className="no-print flex items-center gap-2">
			<Popover
				label={focus.length ? "highlighted: highlight more students" : "Highlight some students"}
				title="Highlight"
				width={330}
				className="font-semibold text-ahead hover:underline"
				trigger={focus.length ? "highlighted" : "+ highlight"}
			>
				{(close) => (
					<>
						<p className="mb-1 text-[13px] text-muted">
							All rows stay; these students stand out in them.
						</p>
						<ConditionForm
							{...{ catalogue, question }}
							word={focus.length ? "Highlight these too" : "Highlight"}
							add={(one) => {
								ask({ ...question, focus: anyOf(focus, one) });
								close();
							}}
						/>
					</>
				)}
			</Popover>
			{focus.length > 0 && (
				<>
					<button
						type="button"
						className="text-[13px] font-semibold text-ahead hover:underline"
						aria-pressed={question.show === "make_up"}
						onClick={() =>
							ask(
								question.show === "make_up"
									? inLens({ ...question, focus: null }, "spans", catalogue)
									: inLens(question, "make_up", catalogue),
							)
						}
					>
						{made ? "back to the chart" : "who are they?"}
					</button>
					<button
						type="button"
						className="rounded-full p-1 hover:bg-amber-wash"
						aria-label="Stop highlighting"
						onClick={() => ask(inLens({ ...question, focus: null }, shown(question), catalogue))}
					>
						<X size={12} aria-hidden="true" />
					</button>
				</>
			)}
		</span>
	);
}

function shown(question: Question) {
	const show = question.show ?? "spans";
	return show === "make_up" ? "spans" : show;
}

/** Several highlighted kinds of students: any of them. */
function anyOf(before: Condition[], one: Condition): Condition[] {
	const first = before[0];
	if (!first) return [one];
	const all = "any" in first ? first.any : [first];
	return [{ any: [...all, one] }];
}

/** Population, counted and missing of the first measure; several measures say how many differ. */
function CoverageLine({ answer, open }: { answer: Answer; open: Props["open"] }) {
	const coverage = answer.coverage[0];
	if (!coverage) return null;
	const share = coverage.population ? coverage.counted / coverage.population : 0;
	const others = answer.coverage.length - 1;
	return (
		<section
			aria-label="Coverage"
			className="ml-auto flex flex-wrap items-center gap-x-1.5 text-muted"
		>
			<svg width="110" height="8" aria-hidden="true" className="mr-1">
				<rect width="110" height="8" rx="3" fill="var(--color-amber)" />
				<rect width={110 * share} height="8" rx="3" fill="var(--color-ahead)" />
			</svg>
			<button
				type="button"
				className="hover:underline"
				onClick={() => coverage.opens && open(coverage.opens)}
			>
				<b className="text-ink">{figure(coverage.counted, 0)}</b> of{" "}
				{figure(coverage.population, 0)} counted
			</button>
			{coverage.missing.map((item) => (
				<span key={item.reason}>
					·{" "}
					<button
						type="button"
						className="hover:underline"
						onClick={() => item.opens && open(item.opens)}
					>
						{figure(item.n, 0)} {item.label}
					</button>
				</span>
			))}
			{coverage.not_entered > 0 && <span>· {figure(coverage.not_entered, 0)} not entered</span>}
			{others > 0 && (
				<Popover
					label={`+ ${others} more: coverage of every measure`}
					title="Coverage of every measure"
					width={360}
					className="no-print text-ahead hover:underline"
					trigger={`+ ${others} more`}
				>
					{() => <EveryCoverage answer={answer} />}
				</Popover>
			)}
		</section>
	);
}

function EveryCoverage({ answer }: { answer: Answer }) {
	return (
		<ul className="space-y-1">
			{answer.coverage.map((one) => (
				<li key={one.measure}>
					<b>{answer.measures[one.measure]?.label}</b>: {figure(one.counted, 0)} of{" "}
					{figure(one.population, 0)} counted
					{one.missing.map((item) => ` · ${figure(item.n, 0)} ${item.label}`).join("")}
				</li>
			))}
		</ul>
	);
}

import { useState } from "react";
import type { Catalogue, Derived, Measure, Question } from "../../api/client";
import { count } from "../../lib/numbers";
import { Choice, Heading, Tick } from "./Choice";
import { measureOf, partOf, plainOf, type Sitting, sittingOf, type What } from "./question";
import { againstEarlier } from "./yardsticks";

export interface PickerProps {
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
	close: () => void;
}

const same = (one: What, other: What) => JSON.stringify(one) === JSON.stringify(other);

/** What is looked at: a sitting on the left; on the right how, and what beside it. */
export function MeasurePicker({ question, catalogue, ask, close }: PickerProps) {
	const [search, setSearch] = useState("");
	const now = sittingOf(question, catalogue);
	const words = search.toLowerCase().split(/\s+/);
	const shown = catalogue.measures.filter((one) =>
		words.every((word) => `${one.label} ${one.assessment}`.toLowerCase().includes(word)),
	);
	function look(what: What[], sitting: Sitting | undefined = now): void {
		const grades = sitting?.has_figures === false;
		const usual = !question.against || !("prior" in question.against);
		const keep = !grades && (sitting?.has_prior || usual);
		const first = what[0];
		const worked = first !== undefined && ("derive" in first || "statistic" in first);
		const share = first !== undefined && "statistic" in first;
		const figure = worked && !share;
		const levels = question.show === "levels" && (figure || sitting?.steps.length === 0);
		const single = share && ["spread", "start_to_now"].includes(question.show ?? "");
		const half = plainOf(first).grain === "half";
		ask({
			...question,
			what,
			against: keep && !worked ? question.against : null,
			show: (half || grades) && !share ? "levels" : levels || single ? "spans" : question.show,
			sort: [],
		});
	}
	return (
		<div className="grid grid-cols-[250px_1fr] gap-3">
			<div>
				<input
					className="input input-sm mb-1 w-full"
					aria-label="Search tests"
					placeholder="Search"
					value={search}
					onChange={(event) => setSearch(event.target.value)}
				/>
				<div className="max-h-80 overflow-auto">
					{shown.map((one, at) => (
						<div key={one.key}>
							{one.assessment !== shown[at - 1]?.assessment && <Heading>{one.assessment}</Heading>}
							<Choice
								chosen={one.key === now?.key}
								words={one.label}
								aside={count(one.n, "student")}
								pick={() => {
									look([measureOf(one)], one);
									close();
								}}
							/>
						</div>
					))}
					{shown.length === 0 && <p className="px-2 text-muted">No test is called so.</p>}
				</div>
			</div>
			{now && <How {...{ question, catalogue, look }} sitting={now} />}
		</div>
	);
}

interface HowProps {
	question: Question;
	catalogue: Catalogue;
	sitting: Sitting;
	look: (what: What[]) => void;
}

/** The chosen sitting: its score, form, parts, and what stands beside it. */
function How({ question, catalogue, sitting, look }: HowProps) {
	const plain = plainOf(question.what[0]);
	const parts = sitting.parts.filter((one) => one.kind !== "question" || one.names.length <= 60);
	const base = measureOf(sitting);
	const change = (more: Partial<Measure>) => look([measureOf(sitting, more)]);
	const derived = (made: Omit<Derived, "of">) => look([{ ...made, of: measureOf(sitting) }]);
	const now = question.what[0];
	const derive = now && "derive" in now ? now.derive : undefined;
	const cut = now && "statistic" in now ? now.cut : undefined;
	const share = (step: string) => look([{ measure: base, statistic: "share", cut: step }]);
	return (
		<div className="max-h-96 overflow-auto border-l border-line pl-2">
			<Heading>{`${sitting.label}, as`}</Heading>
			<Choice
				chosen={!plain.score && !plain.part && !plain.grain && !derive && !cut}
				words="its usual score"
				pick={() => change({})}
			/>
			{sitting.steps.length > 0 && sitting.cuts.length > 0 && (
				<Choice
					chosen={plain.grain === "half"}
					words="half-levels"
					aside="each level in two"
					pick={() => change({ grain: "half" })}
				/>
			)}
			{sitting.has_nation && sitting.scores.some((one) => one.score === "scaled") && (
				<Choice
					chosen={derive === "percentile"}
					words="national percentile rank"
					pick={() => derived({ derive: "percentile" })}
				/>
			)}
			{sitting.has_earlier && sitting.steps.length > 0 && (
				<Choice
					chosen={derive === "steps"}
					words="steps made since the sitting before"
					pick={() => derived({ derive: "steps", against: againstEarlier() })}
				/>
			)}
			{sitting.scores
				.filter((one) => !["level", "grade"].includes(one.score))
				.map((one) => (
					<Choice
						key={one.score}
						chosen={plain.score === one.score && !plain.part}
						words={one.label}
						aside={`in ${one.unit}`}
						pick={() => change({ score: one.score })}
					/>
				))}
			{sitting.forms.map((form) => (
				<Choice
					key={form}
					chosen={plain.form === form}
					words={`form ${form} alone`}
					pick={() => change({ form, ...(plain.score ? { score: plain.score } : {}) })}
				/>
			))}
			{sitting.steps.length > 1 && <Heading>The share who reached</Heading>}
			{sitting.steps.slice(1).map((step) => (
				<Choice
					key={step}
					chosen={cut === step}
					words={`${step} or better`}
					pick={() => share(step)}
				/>
			))}
			{parts.length > 0 && <Heading>Taken apart</Heading>}
			{parts.map((one) => (
				<Choice
					key={one.kind}
					chosen={partOf(plain)?.kind === one.kind && partOf(plain)?.is === "each"}
					words={`by ${one.kind}`}
					aside={`${one.names.length}`}
					pick={() => change({ part: { kind: one.kind, is: "each" } })}
				/>
			))}
			<Beside {...{ question, catalogue, sitting, look }} base={base} />
		</div>
	);
}

/** Further measures in the same question: predictions, subjects, sittings. */
function Beside({ question, catalogue, sitting, look, base }: HowProps & { base: What }) {
	const family = catalogue.measures.filter((one) => one.assessment_id === sitting.assessment_id);
	const others = family.filter((one) => one.key !== sitting.key);
	const toggle = (what: What) => {
		const held = question.what.some((one) => same(one, what));
		const next = held ? question.what.filter((one) => !same(one, what)) : [...question.what, what];
		look(next.length ? next : [base]);
	};
	const subjects = new Set(
		family.filter((one) => one.sitting === sitting.sitting).map((one) => one.subject),
	);
	const claims = sitting.claims.map((one) => ({
		label: one.label,
		what: measureOf(sitting, { role: one.role, ...(one.kind ? { kind: one.kind } : {}) }),
	}));
	return (
		<>
			{(others.length > 0 || claims.length > 0) && <Heading>Beside it</Heading>}
			{subjects.size > 1 && (
				<Choice
					chosen={plainOf(question.what[0]).subject === "each"}
					words={`all ${subjects.size} subjects of ${sitting.sitting}`}
					pick={() => look([measureOf(sitting, { subject: "each" })])}
				/>
			)}
			{claims.map((one) => (
				<Tick
					key={one.label}
					checked={question.what.some((what) => same(what, one.what))}
					words={one.label}
					change={() => toggle(one.what)}
				/>
			))}
			{others.map((one) => (
				<Tick
					key={one.key}
					checked={question.what.some((what) => same(what, measureOf(one)))}
					words={one.label}
					change={() => toggle(measureOf(one))}
				/>
			))}
		</>
	);
}

import type { Derived, Measure, Question } from "../../api/client";
import { figure } from "../../lib/numbers";
import { type Pick, PickList } from "../../ui/PickList";
import {
	measureOf,
	partOf,
	plainOf,
	type Sitting,
	sittingOf,
	type What,
	withWhat,
} from "../model/question";
import { againstEarlier } from "../model/yardsticks";
import type { PickerProps } from "./picker";

/** What is looked at: a sitting on the left; on the right how, and what beside it. */
export function MeasurePicker({ question, catalogue, ask, close }: PickerProps) {
	const now = sittingOf(question, catalogue);
	const look = (what: What[], sitting: Sitting | undefined = now) =>
		ask(withWhat(question, what, sitting));
	return (
		<div className="grid grid-cols-[270px_minmax(0,1fr)] gap-3">
			<PickList
				label="tests"
				focus
				height={330}
				nothing="No test is called so."
				picks={catalogue.measures.map((one) => ({
					key: one.key,
					words: one.label,
					aside: figure(one.n, 0),
					group: one.assessment,
					chosen: one.key === now?.key,
					pick: () => {
						look([measureOf(one)], one);
						close();
					},
				}))}
			/>
			{now && (
				<div className="border-l border-line pl-2">
					<PickList
						label={`${now.label}, as`}
						height={380}
						picks={[
							...ways(question, now, look),
							...parts(question, now, look),
							...beside(question, catalogue.measures, now, look),
						]}
					/>
				</div>
			)}
		</div>
	);
}

type Looking = (what: What[]) => void;

/** The scores and forms of a sitting, what is worked out of it, and shares who reached a step. */
function ways(question: Question, sitting: Sitting, look: Looking): Pick[] {
	const now = question.what[0];
	const plain = plainOf(now);
	const derive = now && "derive" in now ? now.derive : undefined;
	const cut = now && "statistic" in now ? now.cut : undefined;
	const change = (more: Partial<Measure>) => () => look([measureOf(sitting, more)]);
	const derived = (made: Omit<Derived, "of">) => () => look([{ ...made, of: measureOf(sitting) }]);
	const figures = sitting.scores.filter((one) => !["level", "grade"].includes(one.score));
	const all: (Omit<Pick, "key"> | false)[] = [
		{
			words: "its usual score",
			chosen: !plain.score && !plain.part && !plain.grain && !derive && !cut,
			pick: change({}),
		},
		sitting.steps.length > 0 &&
			sitting.cuts.length > 0 && {
				words: "half-levels",
				aside: "each level in two",
				chosen: plain.grain === "half",
				pick: change({ grain: "half" }),
			},
		sitting.has_nation &&
			sitting.scores.some((one) => one.score === "scaled") && {
				words: "national percentile rank",
				chosen: derive === "percentile",
				pick: derived({ derive: "percentile" }),
			},
		sitting.parts.some((one) => one.kind === "strand" || one.kind === "objective") && {
			words: "standards mastered",
			aside: "in %",
			chosen: derive === "mastered",
			pick: derived({ derive: "mastered" }),
		},
		sitting.has_earlier &&
			sitting.steps.length > 0 && {
				words: "steps made since the sitting before",
				chosen: derive === "steps",
				pick: derived({ derive: "steps", against: againstEarlier() }),
			},
		sitting.has_earlier &&
			sitting.has_figures && {
				words: "growth percentile",
				aside: "among similar starters",
				chosen: derive === "growth_percentile",
				pick: derived({ derive: "growth_percentile" }),
			},
		sitting.has_earlier &&
			sitting.has_figures && {
				words: "pace",
				aside: "gained a year",
				chosen: derive === "pace",
				pick: derived({ derive: "pace" }),
			},
		...(sitting.converts ?? []).map((onto) => ({
			words: `as ${onto}`,
			aside: "converted",
			chosen: derive === "convert",
			pick: derived({ derive: "convert", table: onto }),
		})),
		...figures.map((one) => ({
			words: one.label,
			aside: `in ${one.unit}`,
			chosen: plain.score === one.score && !plain.part,
			pick: change({ score: one.score }),
		})),
		...sitting.forms.map((form) => ({
			words: `form ${form} alone`,
			chosen: plain.form === form,
			pick: change({ form, ...(plain.score ? { score: plain.score } : {}) }),
		})),
	];
	const shares = sitting.steps.slice(1).map((step) => ({
		key: `share ${step}`,
		group: "The share who reached",
		words: `${step} or better`,
		chosen: cut === step,
		pick: () => look([{ measure: measureOf(sitting), statistic: "share" as const, cut: step }]),
	}));
	const group = `${sitting.label}, as`;
	return [
		...all.filter((one) => one !== false).map((one) => ({ ...one, key: one.words, group })),
		...shares,
	];
}

const MOST_QUESTIONS = 60;

/** A test taken apart: strands, types, questions. */
function parts(question: Question, sitting: Sitting, look: Looking): Pick[] {
	const part = partOf(plainOf(question.what[0]));
	const now = question.what[0];
	const ranks = sitting.parts
		.filter((one) => one.ranked)
		.map((one) => ({
			key: `rank ${one.kind}`,
			group: "Taken apart",
			words: `national percentile rank by ${one.kind}`,
			aside: `${one.names.length}`,
			chosen: now !== undefined && "derive" in now && part?.kind === one.kind,
			pick: () =>
				look([
					{
						derive: "percentile" as const,
						of: measureOf(sitting, { part: { kind: one.kind, is: "each" } }),
					},
				]),
		}));
	const apart = sitting.parts
		.filter((one) => one.kind !== "question" || one.names.length <= MOST_QUESTIONS)
		.map((one) => ({
			key: `part ${one.kind}`,
			group: "Taken apart",
			words: `by ${one.kind}`,
			aside: `${one.names.length}`,
			chosen: !(now && "derive" in now) && part?.kind === one.kind && part?.is === "each",
			pick: () => look([measureOf(sitting, { part: { kind: one.kind, is: "each" } })]),
		}));
	return [...apart, ...ranks];
}

const same = (one: What, other: What) => JSON.stringify(one) === JSON.stringify(other);

/** Further measures in the same question: predictions, subjects, sittings. */
function beside(question: Question, measures: Sitting[], sitting: Sitting, look: Looking): Pick[] {
	const family = measures.filter((one) => one.assessment_id === sitting.assessment_id);
	const subjects = new Set(
		family.filter((one) => one.sitting === sitting.sitting).map((one) => one.subject),
	);
	const group = "Beside it";
	const tick = (key: string, words: string, what: What): Pick => {
		const held = question.what.some((one) => same(one, what));
		const next = held ? question.what.filter((one) => !same(one, what)) : [...question.what, what];
		const pick = () => look(next.length ? next : [measureOf(sitting)]);
		return { key: `beside ${key}`, group, words, ticks: true, chosen: held, pick };
	};
	const every: Pick = {
		key: "every subject",
		group,
		words: `all ${subjects.size} subjects of ${sitting.sitting}`,
		chosen: plainOf(question.what[0]).subject === "each",
		pick: () => look([measureOf(sitting, { subject: "each" })]),
	};
	return [
		...(subjects.size > 1 ? [every] : []),
		...sitting.claims.map((one) =>
			tick(
				one.label,
				one.label,
				measureOf(sitting, { role: one.role, ...(one.kind ? { kind: one.kind } : {}) }),
			),
		),
		...family
			.filter((one) => one.key !== sitting.key)
			.map((one) => tick(one.key, one.label, measureOf(one))),
	];
}

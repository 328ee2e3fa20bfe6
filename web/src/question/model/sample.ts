import type { Catalogue, Question } from "../../api/client";
import { measureOf, type Sitting } from "./question";

// What tests of the room and of the lenses ask about.

export const measure: Sitting = {
	key: "5.scaled",
	label: "Reading, spring",
	assessment_id: 1,
	assessment: "Survey",
	subject_id: 2,
	subject: "Reading",
	sitting_id: 5,
	sitting: "spring",
	date: "2026-05-12",
	n: 90,
	scores: [{ score: "scaled", label: "scaled score", unit: "scaled-score points", n: 90 }],
	steps: ["low", "high"],
	cuts: [],
	forms: [],
	parts: [],
	claims: [],
	has_figures: true,
	has_prior: true,
	has_earlier: true,
	has_nation: false,
	siblings: 1,
};
export const catalogue: Catalogue = {
	version: 3,
	today: "2026-04-20",
	scope: "the whole district",
	students: 100,
	schools: [
		{ id: 1, label: "Tarn", n: 60 },
		{ id: 2, label: "Netherby", n: 40 },
	],
	year_levels: [{ id: 8, label: "Year 8", n: 100 }],
	classes: [],
	teachers: [],
	courses: [],
	characteristics: [
		{ id: 4, label: "Sex", holds: "groups", options: [{ id: 7, label: "F", n: 50 }] },
	],
	measures: [measure],
	groups: [],
	shows: [
		{
			show: "spans",
			label: "Spans",
			takes: ["focus", "reference"],
			pins: ["district", "nation"],
			measures: null,
		},
		{ show: "levels", label: "Levels", takes: ["reference"], pins: ["district"], measures: null },
		{ show: "make_up", label: "Make-up", takes: ["focus"], pins: [], measures: 1 },
	],
};
export const base: Question = {
	question: 1,
	what: [measureOf(measure)],
	split: [{ field: "school" }],
	against: { prior: {} },
};

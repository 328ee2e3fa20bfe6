import { TEST_LENSES } from "../../lenses";
import { NothingYet } from "../../question/frame/NothingYet";
import type { Place } from "../../question/frame/place";
import { QuestionPage } from "../../question/frame/QuestionPage";
import { useAddress } from "../../question/frame/useAddress";
import { firstOfTests } from "./first";

const TESTS: Place = {
	sentence: () => [
		"How did ",
		{ slot: "who" },
		" answer ",
		{ slot: "what" },
		", split by ",
		{ slot: "split" },
		", beside ",
		{ slot: "against" },
		"?",
	],
	lenses: TEST_LENSES,
	others: [],
	first: firstOfTests,
	Nothing,
};

/** Inside a test: which questions, which strands, group beside group. */
export function TestsPage() {
	const { asked, go } = useAddress("/tests");
	return <QuestionPage place={TESTS} asked={asked} go={go} />;
}

/** Without marks by question it says which file brings them. */
function Nothing() {
	return (
		<NothingYet title="No test is kept question by question yet">
			Bring in a results file with a row per student and a column per question; then a table that
			says what each question is worth and which strand it belongs to.
		</NothingYet>
	);
}

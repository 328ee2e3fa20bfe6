import type { Catalogue } from "../../api/client";
import { LENSES, OTHER_LENSES } from "../../lenses";
import { NothingYet } from "../../question/frame/NothingYet";
import type { Place } from "../../question/frame/place";
import { QuestionPage } from "../../question/frame/QuestionPage";
import { useAddress } from "../../question/frame/useAddress";
import { firstQuestion } from "../../question/model/question";

const COMPARE: Place = {
	sentence: () => [
		"How did ",
		{ slot: "who" },
		" do in ",
		{ slot: "what" },
		", split by ",
		{ slot: "split" },
		", measured against ",
		{ slot: "against" },
		"?",
	],
	lenses: LENSES,
	others: OTHER_LENSES,
	first: firstQuestion,
	Nothing,
};

/** Cohorts, schools, classes and subgroups against what they could have reached. */
export function ComparePage() {
	const { asked, go } = useAddress("/compare");
	return <QuestionPage place={COMPARE} asked={asked} go={go} />;
}

/** Empty Compare says what is missing and where to bring it in. */
function Nothing({ catalogue }: { catalogue: Catalogue }) {
	const roster = catalogue.schools.length > 0;
	return (
		<NothingYet title={roster ? "There are no results yet" : "Nothing has been kept yet"}>
			{roster
				? "The roster is here. Bring in a results file, and every school, class and group can be compared."
				: "Bring in a roster first: it says who is in which school. Then a results file."}
		</NothingYet>
	);
}

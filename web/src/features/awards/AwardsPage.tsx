import { AWARD_LENSES } from "../../lenses";
import { NothingYet } from "../../question/frame/NothingYet";
import type { Place } from "../../question/frame/place";
import { QuestionPage } from "../../question/frame/QuestionPage";
import { useAddress } from "../../question/frame/useAddress";
import { firstOfAwards } from "./first";

const AWARDS: Place = {
	sentence: () => [
		"Which of ",
		{ slot: "who" },
		" meet ",
		{ slot: "award" },
		", counting ",
		{ slot: "counting" },
		" records, split by ",
		{ slot: "split" },
		"?",
	],
	lenses: AWARD_LENSES,
	others: [],
	first: firstOfAwards,
	Nothing,
};

/** Who has met an award, who is on course, who is short of what. */
export function AwardsPage() {
	const { asked, go } = useAddress("/awards");
	return <QuestionPage place={AWARDS} asked={asked} go={go} />;
}

/** Without records or rules it says what brings them. */
function Nothing() {
	return (
		<NothingYet title="There are no awards yet">
			Bring in credit records (a row for each student and standard, banked or estimated) and the
			table of what each award asks for.
		</NothingYet>
	);
}

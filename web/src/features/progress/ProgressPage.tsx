import { PROGRESS_LENSES } from "../../lenses";
import { NothingYet } from "../../question/frame/NothingYet";
import type { Place } from "../../question/frame/place";
import { QuestionPage } from "../../question/frame/QuestionPage";
import { useAddress } from "../../question/frame/useAddress";
import { firstOfProgress } from "./first";

const PROGRESS: Place = {
	sentence: ({ against, show }) => {
		if (show === "trial")
			return [
				"What would it take for ",
				{ slot: "who" },
				" to come level with ",
				{ slot: "against" },
				" in ",
				{ slot: "what" },
				", split by ",
				{ slot: "split" },
				"?",
			];
		if (show === "chances")
			return ["What has a level in ", { slot: "what" }, " meant later, for ", { slot: "who" }, "?"];
		return [
			"How far did ",
			{ slot: "who" },
			" come in ",
			{ slot: "what" },
			against && "earlier" in against ? " since " : ", measured against ",
			{ slot: "against" },
			", split by ",
			{ slot: "split" },
			"?",
		];
	},
	lenses: PROGRESS_LENSES,
	others: [],
	first: firstOfProgress,
	Nothing,
};

/** How far they came: from level to level, and in figures. */
export function ProgressPage() {
	const { asked, go } = useAddress("/progress");
	return <QuestionPage place={PROGRESS} asked={asked} go={go} />;
}

/** Without two sittings in levels it says what brings them. */
function Nothing() {
	return (
		<NothingYet title="No test is kept in levels from two sittings yet">
			Bring in results of two sittings of one test, with a column of levels or grades; then, if you
			have one, the table that says which move between levels earns what.
		</NothingYet>
	);
}

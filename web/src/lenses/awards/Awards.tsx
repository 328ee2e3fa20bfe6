import { Hatches, Legend } from "../../charts/awardStates";
import type { LensProps } from "../../question/model/lens";
import { Conditions } from "./Conditions";
import { Groups } from "./Groups";
import { isAwards, statesOf } from "./model";
import { Near } from "./Near";

/** Who stands where in each condition, the award by group, and who is near one of them. */
export function Awards({ answer, question, ask, open }: LensProps) {
	const body = answer.body;
	if (!isAwards(body)) return null;
	return (
		<figure aria-label={answer.sentence} className="print-flow">
			<Hatches />
			<div className="grid gap-x-6 gap-y-4 min-[1100px]:grid-cols-2">
				<div>
					<Conditions {...{ body, question, ask, open }} />
					<Legend states={statesOf(body)} />
				</div>
				<Groups body={body} open={open} />
			</div>
			<Near {...{ body, question }} />
		</figure>
	);
}

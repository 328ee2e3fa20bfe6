import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/useWidth";
import type { LensProps } from "../../question/model/lens";
import { Flows } from "./Flows";
import { Groups } from "./Groups";
import { Matrix } from "./Matrix";

/** Room for the matrix beside. */
const MATRIX = 352;

/** The lens Movement: who was in which level and is in which now, and the credit of each group. */
export function Movement({ answer, question, ask, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "movement") return null;
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow min-h-[300px]">
			<Rules body={body} choose={(rule) => ask({ ...question, options: { rule } })} />
			<div className="flex flex-wrap items-start gap-x-6 gap-y-3">
				<Flows {...{ body, open }} width={Math.max(330, Math.min(470, width - MATRIX))} />
				<Matrix {...{ body, open }} />
			</div>
			<Groups {...{ body, open, width }} />
		</figure>
	);
}

interface RulesProps {
	body: Schemas["MovementBody"];
	choose: (rule: string) => void;
}

/** Which move earns what is the district's to say; several rules stand side by side. */
function Rules({ body, choose }: RulesProps) {
	const write = (
		<Link to="/intake/movement" className="text-[13px] font-semibold text-ahead hover:underline">
			Write or change a rule
		</Link>
	);
	if (body.rules.length < 2) return <p className="no-print mb-2">{write}</p>;
	return (
		<div className="no-print mb-2 flex items-center gap-4">
			<label className="flex items-center gap-2 text-[13px]">
				<span className="font-semibold">Credit by</span>
				<select
					className="select select-xs w-auto"
					value={body.rule}
					onChange={(event) => choose(event.target.value)}
				>
					{body.rules.map((rule) => (
						<option key={rule.name} value={rule.name}>
							{rule.name}
							{rule.credit != null && `: ${Math.round(100 * rule.credit)}%`}
						</option>
					))}
				</select>
			</label>
			{write}
		</div>
	);
}

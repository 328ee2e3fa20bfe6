import { useCatalogue } from "../../api/catalogue";
import { useWidth } from "../../charts/useWidth";
import { count } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { sittingOf } from "../../question/model/question";
import { Curve } from "./Curve";
import { type Move, withMoves } from "./model";
import { NearList } from "./NearList";
import { Plans } from "./Plans";
import { Rows } from "./Rows";
import { Wanted } from "./Wanted";

/** Room for the list beside the curve. */
const LIST = 372;
const NARROW = 700;

/** The lens Try: what it would take, who is nearest, and what would be then. Never results. */
export function Try({ answer, question, ask, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const catalogue = useCatalogue();
	const body = answer.body;
	const sitting = catalogue.data && sittingOf(answer.question, catalogue.data);
	if (body.show !== "trial" || !sitting) return null;
	const moved = (moves: Move[]) => ask(withMoves(question, moves, sitting));
	const kept = withMoves(question, body.moves, sitting);
	const beside = width > NARROW;
	const left = beside ? width - LIST - 16 : width;
	const { movers } = body;
	const opens = movers.opens;
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow min-h-[300px]">
			<div className="mb-2 flex flex-wrap items-baseline gap-x-4 rounded border border-amber-ink bg-amber-wash px-3 py-1.5 text-[13px]">
				<p>
					<b>A try, not results.</b> Nothing here is kept as a result; prints and exports say so.
				</p>
				<span className="no-print flex gap-x-4">
					<Plans {...{ kept, ask }} name={`${body.wanted_words}, ${answer.slots.who}`} />
					{body.by_hand && (
						<button
							type="button"
							className="font-semibold text-ahead hover:underline"
							onClick={() => moved([])}
						>
							Undo all
						</button>
					)}
					{opens && (
						<button
							type="button"
							className="font-semibold text-ahead hover:underline"
							onClick={() => open(opens)}
						>
							List of the {count(movers.n, "student")}
						</button>
					)}
				</span>
			</div>
			<Wanted {...{ body, question, ask }} steps={sitting.steps} />
			<div
				className={beside ? "grid gap-4" : ""}
				style={beside ? { gridTemplateColumns: `${left}px ${LIST}px` } : {}}
			>
				<div>
					{body.now != null && <Curve body={body} width={left} />}
					<Rows {...{ body, open }} width={left} />
				</div>
				<NearList {...{ body, question }} change={moved} />
			</div>
		</figure>
	);
}

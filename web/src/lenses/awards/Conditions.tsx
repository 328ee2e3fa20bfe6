import type { Open, Question } from "../../api/client";
import { Stack } from "../../charts/awardStates";
import { figure } from "../../lib/numbers";
import { type Body, type Condition, statesOf } from "./model";

interface Props {
	body: Body;
	question: Question;
	ask: (question: Question) => void;
	open: (mark: Open) => void;
}

/** A bar for each condition; the name shows who is near it. The award as a whole comes last. */
export function Conditions({ body, question, ask, open }: Props) {
	const choose = (name: string) =>
		ask({ ...question, options: name === body.condition ? {} : { condition: name } });
	return (
		<>
			{body.awards.map((award) => {
				const mine = body.conditions.filter((one) => one.measure === award.measure);
				return (
					<section key={award.measure} aria-label={award.name} className="mb-3">
						{body.awards.length > 1 && <h3 className="text-[13px] font-bold">{award.name}</h3>}
						<Heads n={award.n} missing={award.missing ?? 0} />
						<ul>
							{mine.map((one) => (
								<Line
									key={one.name}
									{...{ one, body, open }}
									choose={one.whole || award.measure > 0 ? undefined : choose}
								/>
							))}
						</ul>
					</section>
				);
			})}
		</>
	);
}

const COLUMNS = "grid grid-cols-[minmax(96px,1fr)_36px_minmax(0,2fr)] items-center gap-x-2.5";

function Heads({ n, missing }: { n: number; missing: number }) {
	return (
		<div className={`${COLUMNS} border-b border-line pb-0.5 text-xs text-muted`}>
			<span className="font-semibold">condition</span>
			<span className="text-right">needs</span>
			<span>
				of {figure(n, 0)} students{missing ? `; ${missing} without records` : ""}
			</span>
		</div>
	);
}

interface LineProps {
	one: Condition;
	body: Body;
	open: (mark: Open) => void;
	choose: ((name: string) => void) | undefined;
}

function Line({ one, body, open, choose }: LineProps) {
	const chosen = choose !== undefined && one.name === body.condition;
	const look = `${chosen ? "bg-amber-wash" : ""} ${one.whole ? "mt-1 border-t border-line pt-1" : ""}`;
	return (
		<li className={`${COLUMNS} rounded px-0.5 py-1 ${look}`} title={one.says}>
			{choose ? (
				<button
					type="button"
					aria-pressed={chosen}
					className="truncate text-left font-semibold hover:underline"
					onClick={() => choose(one.name)}
				>
					{one.name}
					<span className="sr-only">: {one.says} Who is near it</span>
				</button>
			) : (
				<span className={`truncate ${one.whole ? "font-bold" : "font-semibold"}`}>
					{one.whole ? "The award" : one.name}
					<span className="sr-only">: {one.says}</span>
				</span>
			)}
			<span className="text-right text-[13px] text-muted">
				{one.whole ? "" : figure(one.needed, Number.isInteger(one.needed) ? 0 : 1)}
				<span className="sr-only"> {one.unit}</span>
			</span>
			{one.counts?.length ? (
				<Stack
					label={one.name}
					counts={one.counts}
					bars={one.bars}
					states={statesOf(body)}
					open={open}
				/>
			) : (
				<span className="text-xs text-muted">◇ too few</span>
			)}
		</li>
	);
}

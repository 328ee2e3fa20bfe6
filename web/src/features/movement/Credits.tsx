import { next, type RuleText, withCredit } from "./rule";

interface Props {
	rule: RuleText;
	set: (rule: RuleText) => void;
}

const LOOK: Record<string, string> = {
	"0": "text-muted",
	"0.5": "border-dashed border-amber-ink bg-amber-wash font-semibold",
	"1": "border-ahead bg-ahead/20 font-bold",
};
const SAID: Record<string, string> = { "0": "–", "0.5": "½", "1": "1" };

/** The levels then, the levels now, and what each move earns: a press goes on to the next. */
export function Credits({ rule, set }: Props) {
	return (
		<table className="text-[13px]">
			<caption className="sr-only">What each move earns</caption>
			<thead>
				<tr>
					<th className="pr-3 text-left font-normal text-muted">then, by now</th>
					{rule.levels.map((level) => (
						<th key={level} scope="col" className="max-w-24 px-1 pb-1 align-bottom font-semibold">
							{level}
						</th>
					))}
				</tr>
			</thead>
			<tbody>
				{rule.levels.map((then, at) => (
					<tr key={then}>
						<th scope="row" className="pr-3 text-left font-semibold whitespace-nowrap">
							{then}
						</th>
						{rule.levels.map((now, n) => {
							const credit = rule.credit[at]?.[n] ?? 0;
							const words = SAID[String(credit)] ?? `${Math.round(100 * credit)}%`;
							return (
								<td key={now} className="p-0.5 text-center">
									<button
										type="button"
										className={`h-8 w-14 rounded border ${LOOK[String(credit)] ?? "border-line"}`}
										aria-label={`${words}: from ${then} to ${now}, credit ${credit}`}
										onClick={() => set(withCredit(rule, at, n, next(credit)))}
									>
										{words}
									</button>
								</td>
							);
						})}
					</tr>
				))}
			</tbody>
		</table>
	);
}

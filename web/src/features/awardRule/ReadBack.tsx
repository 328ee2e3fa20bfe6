import type { Schemas } from "../../api/client";
import { Chip, Hatches } from "../../charts/awardStates";
import { count, figure } from "../../lib/numbers";

const STATES = ["not yet", "on course", "met"];

/** The rule as sentences, how many would stand where, and three students whom it is tried on. */
export function ReadBack({ read }: { read: Schemas["RulesRead"] }) {
	return (
		<div className="mt-4 max-w-4xl">
			<Hatches />
			{read.rules.map((rule, at) => (
				<section key={rule.name} aria-label={`${rule.name} read back`} className="mb-3">
					<h2 className="font-semibold">{rule.name} asks</h2>
					<ul className="list-disc pl-5 text-[13px]">
						{rule.says.map((text) => (
							<li key={text}>{text}</li>
						))}
					</ul>
					<Would counts={read.counts[at]} />
					<Tried rows={read.tried.filter((one) => one.rule === rule.name)} />
				</section>
			))}
		</div>
	);
}

function Would({ counts }: { counts: readonly number[] | undefined }) {
	if (!counts) return null;
	const [not = 0, course = 0, met = 0] = counts;
	return (
		<p className="mt-1 text-[13px] text-muted">
			Of {count(not + course + met, "student")} with records {met} would have met it, {course} be on
			course, {not} not yet.
		</p>
	);
}

function Tried({ rows }: { rows: readonly Schemas["StudentTried"][] }) {
	if (!rows.length) return null;
	return (
		<table className="mt-1 text-[13px]">
			<caption className="text-left text-xs text-muted">Tried on three students</caption>
			<tbody>
				{rows.map((one) => (
					<tr key={one.student} className="border-t border-line">
						<th scope="row" className="py-0.5 pr-3 text-left font-semibold">
							{one.name}
						</th>
						<td className="pr-3">
							<Chip state={STATES.indexOf(one.state)} states={STATES} /> {one.state}
						</td>
						<td className="text-muted">
							{one.conditions.map((held) => (
								<span key={held.name} className="mr-3 inline-block">
									{held.name}{" "}
									<span className={held.state === "not yet" ? "font-semibold text-behind" : ""}>
										{short(held.has)} of {short(held.needed)}
									</span>
								</span>
							))}
						</td>
					</tr>
				))}
			</tbody>
		</table>
	);
}

function short(value: number): string {
	return figure(value, Number.isInteger(value) ? 0 : 1);
}

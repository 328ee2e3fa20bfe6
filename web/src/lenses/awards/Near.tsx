import { Link } from "@tanstack/react-router";
import type { Question, Schemas } from "../../api/client";
import { Chip, Reach } from "../../charts/awardStates";
import { figure, percent } from "../../lib/numbers";
import { useNames } from "../../question/listing/useNames";
import { type Body, statesOf, withInterval } from "./model";

type Near_ = Schemas["NearAward"];

interface Props {
	body: Body;
	question: Question;
}

/** Who has not met one condition, nearest first: banked and estimated against what it needs, and
 * how they stand to each other condition. */
export function Near({ body, question }: Props) {
	const near = body.near ?? [];
	const condition = body.conditions.find((one) => one.name === body.condition);
	const opens = condition?.bars?.find((bar) => bar.opens)?.opens;
	const names = useNames(
		near.map((one) => one.student),
		question,
		opens?.what,
		"class",
	);
	if (!condition) return null;
	const most = Math.max(condition.needed, ...near.map((one) => one.with_estimates)) || 1;
	const beside = body.beside ?? [];
	return (
		<>
			<BySubject body={body} unit={condition.unit} />
			<section aria-label={`Near ${condition.name}`} className="mt-4 border-t border-line pt-2">
				<h3 className="text-[13px] font-bold">
					{condition.name}: {condition.says}{" "}
					<span className="font-normal text-muted">
						{body.near_all} have not met it, nearest first
						{(body.near_all ?? 0) > near.length ? `; the first ${near.length}` : ""}
					</span>
				</h3>
				<div className="overflow-x-auto">
					<table className="w-full text-[13px]">
						<thead className="text-left text-xs text-muted">
							<tr>
								<th className="font-semibold">student</th>
								<th className="font-semibold">class</th>
								<th className="w-[30%] font-semibold">{condition.unit}</th>
								<th className="font-semibold">short by</th>
								{beside.map((name) => (
									<th key={name} className="px-1 text-center font-semibold">
										{name}
									</th>
								))}
							</tr>
						</thead>
						<tbody>
							{near.map((one) => (
								<tr key={one.student} className="border-t border-line">
									<td className="py-0.5 pr-2 font-semibold">
										<Link
											to="/people/student/$id"
											params={{ id: String(one.student) }}
											className="hover:underline"
										>
											{names.get(one.student)?.name ?? "…"}
										</Link>
									</td>
									<td className="pr-2">{names.get(one.student)?.place}</td>
									<td className="pr-3">
										<Reach {...one} needed={condition.needed} most={most} unit={condition.unit} />
									</td>
									<td className="pr-2">
										<ShortBy one={one} states={statesOf(body)} />
									</td>
									{beside.map((name, at) => (
										<td key={name} className="text-center">
											<Chip state={one.others[at] ?? 0} states={statesOf(body)} />
										</td>
									))}
								</tr>
							))}
						</tbody>
					</table>
				</div>
			</section>
		</>
	);
}

/** What counts for the condition, subject by subject: banked, then with what is estimated. */
function BySubject({ body, unit }: { body: Body; unit: string }) {
	const subjects = body.by_subject ?? [];
	if (!subjects.length) return null;
	const shares = unit === "subjects";
	const most = shares ? 1 : Math.max(...subjects.map((one) => one.with_estimates.value));
	const said = (value: number) => (shares ? percent(value) : figure(value));
	return (
		<section aria-label="By subject" className="mt-4 border-t border-line pt-2">
			<h3 className="text-[13px] font-bold">
				By subject{" "}
				<span className="font-normal text-muted">
					{shares ? "share of students who have enough in it" : "mean credits of each student"},
					banked and with estimates · n {figure(subjects[0]?.n ?? 0, 0)}
				</span>
			</h3>
			<ul className="grid gap-x-6 gap-y-0.5 text-[13px] sm:grid-cols-2">
				{subjects.map((one) => (
					<li
						key={one.subject}
						title={`${one.subject}: banked ${withInterval(one.banked, said)}, with estimates ${withInterval(one.with_estimates, said)}; ${figure(one.having, 0)} of ${figure(one.n, 0)} have something in it`}
						className="grid grid-cols-[110px_minmax(0,1fr)_96px] items-center gap-x-2"
					>
						<span className="truncate">{one.subject}</span>
						<Reach
							banked={one.banked.value}
							with_estimates={one.with_estimates.value}
							needed={null}
							most={most}
							unit={shares ? "students" : "credits"}
						/>
						<span className="text-right">
							{said(one.banked.value)}{" "}
							<span className="text-muted">{said(one.with_estimates.value)}</span>
						</span>
					</li>
				))}
			</ul>
		</section>
	);
}

function ShortBy({ one, states }: { one: Near_; states: readonly string[] }) {
	if (one.state > 0) return <span className="font-semibold text-ahead">{states[one.state]}</span>;
	if (one.short <= 0) return <span className="text-behind">not by one choice of records</span>;
	return (
		<>
			<span className="font-bold text-behind">
				{figure(one.short, Number.isInteger(one.short) ? 0 : 1)}
			</span>
			{states.length > 2 && one.with_estimates === one.banked && (
				<span className="ml-1.5 text-muted">no estimate</span>
			)}
		</>
	);
}

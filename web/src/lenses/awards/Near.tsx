import { Link } from "@tanstack/react-router";
import type { Question, Schemas } from "../../api/client";
import { figure } from "../../lib/numbers";
import { useNames } from "../../question/listing/useNames";
import { type Body, lookOf, Patch, statesOf } from "./states";

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
									<Reach one={one} needed={condition.needed} most={most} unit={condition.unit} />
								</td>
								<td className="pr-2">
									<ShortBy one={one} />
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
	);
}

interface ReachProps {
	one: Near_;
	needed: number;
	most: number;
	unit: string;
}

/** Banked, then what is estimated, against the line of what is needed. */
function Reach({ one, needed, most, unit }: ReachProps) {
	const part = (value: number) => `${(100 * value) / most}%`;
	const words = `${figure(one.banked)} banked, ${figure(one.with_estimates)} with estimates, of ${figure(needed)} ${unit}`;
	return (
		<span className="relative block h-4" role="img" aria-label={words} title={words}>
			<span className="absolute inset-y-0 left-0" style={{ width: part(one.with_estimates) }}>
				<Patch look={lookOf(1, 3)} />
			</span>
			<span className="absolute inset-y-0 left-0" style={{ width: part(one.banked) }}>
				<Patch look={lookOf(2, 3)} />
			</span>
			<span className="absolute -inset-y-0.5 w-0.5 bg-ink" style={{ left: part(needed) }} />
		</span>
	);
}

function ShortBy({ one }: { one: Near_ }) {
	if (one.short <= 0) return <span className="font-semibold text-ahead">on course</span>;
	return (
		<>
			<span className="font-bold text-behind">
				{figure(one.short, Number.isInteger(one.short) ? 0 : 1)}
			</span>
			{one.with_estimates === one.banked && <span className="ml-1.5 text-muted">no estimate</span>}
		</>
	);
}

function Chip({ state, states }: { state: number; states: readonly string[] }) {
	return (
		<span
			className="relative inline-block size-3.5"
			role="img"
			aria-label={states[state]}
			title={states[state]}
		>
			<Patch look={lookOf(state, states.length)} />
		</span>
	);
}

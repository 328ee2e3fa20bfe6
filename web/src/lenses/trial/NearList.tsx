import { Link } from "@tanstack/react-router";
import type { Question } from "../../api/client";
import { figure, percent } from "../../lib/numbers";
import { useNames } from "../../question/listing/useNames";
import { type Body, type Move, type Near, stepped } from "./model";

interface Props {
	body: Body;
	question: Question;
	change: (moves: Move[]) => void;
}

/** Who is moved, and who would be next: each may be stepped up or down. */
export function NearList({ body, question, change }: Props) {
	const ids = body.near.map((one) => one.student);
	const names = useNames(ids, question, body.group.opens?.what, "school");
	if (!body.near.length) return null;
	const distances = Boolean(body.distance_words);
	const chances = body.near.some((one) => one.chance != null);
	return (
		<section aria-label="Nearest first" className="min-w-0">
			<table className="w-full text-[13px]">
				<caption className="pb-1 text-left text-xs font-semibold text-muted">
					{body.by_hand
						? `The ${body.moved} moved, then who is next`
						: `Nearest first: ${body.moved} are tried`}
				</caption>
				<thead className="text-xs text-muted">
					<tr>
						<th className="text-left font-normal">student</th>
						<th className="font-normal">now</th>
						<th className="font-normal">try</th>
						{distances && <th className="text-right font-normal">{body.distance_words}</th>}
						{chances && (
							<th className="text-right font-normal" title={body.chance_words}>
								of such, have
							</th>
						)}
					</tr>
				</thead>
				<tbody>
					{body.near.map((one) => (
						<tr key={one.student} className="border-t border-line">
							<td className="max-w-[150px] truncate py-0.5 font-semibold">
								<Link
									to="/people/student/$id"
									params={{ id: String(one.student) }}
									className="hover:underline"
								>
									{names.get(one.student)?.name ?? "…"}
								</Link>
							</td>
							<td className="text-center">{one.now}</td>
							<td>
								<Stepper
									one={one}
									name={names.get(one.student)?.name ?? "this student"}
									step={(by) => change(stepped(body.moves, one.student, by))}
								/>
							</td>
							{distances && <td className="text-right text-muted">{away(one.distance)}</td>}
							{chances && <td className="text-right text-muted">{percent(one.chance) || "–"}</td>}
						</tr>
					))}
				</tbody>
			</table>
			<p className="mt-1 text-xs text-muted">
				{chances && `“Of such, have”: ${body.chance_words}. `}
				Nearest is no reason to teach some and not others.
			</p>
		</section>
	);
}

function away(distance: number | null | undefined): string {
	if (distance == null) return "–";
	return distance < 0 ? `${figure(-distance)} above` : `${figure(distance)} below`;
}

interface StepperProps {
	one: Near;
	name: string;
	step: (by: number) => void;
}

function Stepper({ one, name, step }: StepperProps) {
	const look = one.by ? "border-amber-ink bg-amber-wash font-bold" : "border-line";
	return (
		<span className={`mx-auto flex w-[74px] items-center justify-between rounded border ${look}`}>
			<button
				type="button"
				className="px-1.5"
				aria-label={`${name}: one step down`}
				onClick={() => step(-1)}
			>
				−
			</button>
			{one.tried}
			<button
				type="button"
				className="px-1.5"
				aria-label={`${name}: one step up`}
				onClick={() => step(1)}
			>
				+
			</button>
		</span>
	);
}

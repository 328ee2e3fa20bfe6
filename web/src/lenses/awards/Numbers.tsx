import { figure, percent } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { type Column, DataTable } from "../../ui/DataTable";
import { StepNumbers } from "../levels/Numbers";
import { type Condition, isAwards, statesOf, withInterval } from "./model";

/** The figures: conditions, groups, and how estimates came out before. */
export function Numbers(props: LensProps) {
	const body = props.answer.body;
	if (!isAwards(body)) return null;
	const called = new Map(body.awards.map((award) => [award.measure, award.name]));
	const subjects = body.by_subject ?? [];
	const asked = body.conditions[body.condition_at ?? -1];
	const said = asked?.unit === "subjects" ? percent : figure;
	const columns: Column<Condition>[] = [
		{ key: "award", label: "award", side: "left", cell: (one) => called.get(one.measure) ?? "" },
		{
			key: "name",
			label: "condition",
			side: "left",
			cell: (one) => (one.whole ? "all of them" : one.name),
		},
		{ key: "needs", label: "needs", cell: (one) => `${figure(one.needed, 0)} ${one.unit}` },
		{ key: "n", label: "n", cell: (one) => figure(one.n, 0) },
		{ key: "missing", label: "missing", cell: (one) => figure(one.missing, 0) },
		...statesOf(body).map((state, at) => ({
			key: state,
			label: state,
			cell: (one: Condition) => (one.counts?.length ? figure(one.counts[at], 0) : "too few"),
		})),
	];
	return (
		<div>
			<DataTable
				caption="Conditions"
				rows={body.conditions}
				keyOf={(one) => `${one.measure} ${one.name}`}
				columns={columns}
			/>
			<StepNumbers {...props} body={body} />
			{subjects.length > 0 && (
				<DataTable
					caption={`By subject: ${body.condition}`}
					rows={subjects}
					keyOf={(one) => one.subject}
					columns={[
						{ key: "subject", label: "subject", side: "left", cell: (one) => one.subject },
						{ key: "n", label: "n", cell: (one) => figure(one.n, 0) },
						{ key: "having", label: "with something in it", cell: (one) => figure(one.having, 0) },
						{ key: "banked", label: "banked", cell: (one) => withInterval(one.banked, said) },
						{
							key: "hoped",
							label: "with estimates",
							cell: (one) => withInterval(one.with_estimates, said),
						},
					]}
				/>
			)}
			{body.estimates.length > 0 && (
				<DataTable
					caption="How estimates of earlier years came out"
					rows={body.estimates}
					keyOf={(one) => one.subject}
					columns={[
						{
							key: "subject",
							label: "subject",
							side: "left",
							cell: (one) => one.subject || "all subjects",
						},
						{ key: "estimates", label: "estimates", cell: (one) => figure(one.estimates, 0) },
						{ key: "outcomes", label: "with an outcome", cell: (one) => figure(one.outcomes, 0) },
						{
							key: "reached",
							label: "reached or bettered",
							cell: (one) =>
								one.reached == null
									? "too few"
									: `${figure(one.reached, 0)} (${percent(one.reached / one.outcomes)})`,
						},
					]}
				/>
			)}
		</div>
	);
}

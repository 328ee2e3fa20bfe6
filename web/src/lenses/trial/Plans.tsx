import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Question, unwrap } from "../../api/client";
import { day } from "../../lib/words";
import { KeepQuestion } from "../../question/keeping/KeepQuestion";
import type { LensProps } from "../../question/model/lens";
import { Popover } from "../../ui/Popover";

interface Props {
	/** The question with its moves written out, as a plan keeps it. */
	kept: Question;
	name: string;
	ask: LensProps["ask"];
}

const LINK = "font-semibold text-ahead hover:underline";

/** A try is kept as a plan only where somebody says so; opened again, shared, thrown away. */
export function Plans({ kept, name, ask }: Props) {
	const queries = useQueryClient();
	const saved = useQuery({
		queryKey: ["questions"],
		queryFn: () => unwrap(client.GET("/api/questions")),
	});
	const drop = useMutation({
		mutationFn: (id: number) =>
			unwrap(client.DELETE("/api/questions/{id}", { params: { path: { id } } })),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["questions"] }),
	});
	const plans = (saved.data?.questions ?? []).filter((one) => one.question.plan);
	return (
		<>
			{kept.plan && (
				<Popover
					label="Keep as a plan"
					title="Keep as a plan"
					width={300}
					className={LINK}
					trigger="Keep as a plan"
				>
					{() => <KeepQuestion question={kept} name={name} />}
				</Popover>
			)}
			{plans.length > 0 && (
				<Popover
					label={`Plans (${plans.length})`}
					title="Plans"
					width={340}
					className={LINK}
					trigger={`Plans (${plans.length})`}
				>
					{(close) => (
						<ul className="space-y-1.5 text-[13px]">
							{plans.map((one) => (
								<li key={one.id} className="flex items-baseline gap-2">
									<button
										type="button"
										className="min-w-0 flex-1 truncate text-left font-semibold hover:underline"
										onClick={() => {
											ask(one.question);
											close();
										}}
									>
										{one.name}
									</button>
									<span className="text-xs text-muted">
										{one.by}, {day(one.at)}
									</span>
									{one.own && (
										<button type="button" className={LINK} onClick={() => drop.mutate(one.id)}>
											Throw away
										</button>
									)}
								</li>
							))}
						</ul>
					)}
				</Popover>
			)}
		</>
	);
}

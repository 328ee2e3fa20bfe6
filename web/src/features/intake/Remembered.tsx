import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";

/** Numbers that a person accepted as a student's: they hold for the next files, and can be taken back. */
export function Remembered() {
	const queries = useQueryClient();
	const held = useQuery({
		queryKey: ["remembered"],
		queryFn: () => unwrap(client.GET("/api/remembered")),
	});
	const forget = useMutation({
		mutationFn: (id: number) =>
			unwrap(
				client.POST("/api/remembered/{alias_id}/forget", {
					params: { path: { alias_id: id } },
				}) as never,
			),
		onSettled: () => queries.invalidateQueries(),
	});
	if (held.isError) return <Trouble error={held.error} />;
	if (!held.data || held.data.remembered.length === 0) return null;
	return (
		<section aria-label="Remembered numbers" className="mt-6">
			<h2 className="text-base font-bold">Remembered numbers</h2>
			<p className="mb-1 text-[13px] text-muted">
				Said once to be a student’s. They hold for the next files; what was kept with them stays.
			</p>
			{forget.isError && <Trouble error={forget.error} />}
			<ul>
				{held.data.remembered.map((item) => (
					<li key={item.id} className="flex items-center gap-3 border-b border-line/70 py-1.5">
						<span>
							<b>{item.text}</b> is {item.number}
						</span>
						<span className="text-muted">from {item.file}</span>
						<button
							type="button"
							className="btn btn-outline btn-xs ml-auto"
							aria-label={`Forget ${item.text}`}
							disabled={forget.isPending}
							onClick={() => forget.mutate(item.id)}
						>
							Forget
						</button>
					</li>
				))}
			</ul>
		</section>
	);
}

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { BatchLine } from "./BatchLine";
import { Remembered } from "./Remembered";

type Open = { id: number; what: "aside" | "undo" };

/** Everything kept and undone, newest first; undo and put back in any order. */
export function History() {
	const history = useQuery({
		queryKey: ["batches"],
		queryFn: () => unwrap(client.GET("/api/batches")),
	});
	const [open, setOpen] = useState<Open>();
	return (
		<section aria-label="History" className="overflow-auto px-5 py-4">
			<h2 className="mb-2 text-base font-bold">What was kept</h2>
			{history.isPending && <Waiting what="Looking up the history" />}
			{history.isError && <Trouble error={history.error} />}
			{history.data?.batches.length === 0 && (
				<p className="text-muted">Nothing yet. A roster comes first, then results.</p>
			)}
			{history.data && history.data.batches.length > 0 && (
				<table className="w-full text-left [&_td]:px-2 [&_th]:px-2 [&_td]:whitespace-nowrap">
					<thead>
						<tr className="border-b border-line text-[13px] text-muted">
							<th scope="col" className="py-1.5 font-semibold">
								What
							</th>
							<th scope="col" className="font-semibold">
								File
							</th>
							<th scope="col" className="font-semibold">
								Holds from
							</th>
							<th scope="col" className="text-right font-semibold">
								Rows kept
							</th>
							<th scope="col" className="pr-6 text-right font-semibold">
								Set aside
							</th>
							<th scope="col" className="font-semibold">
								When, by
							</th>
							<th scope="col">
								<span className="sr-only">Change</span>
							</th>
						</tr>
					</thead>
					<tbody>
						{history.data.batches.map((batch) => (
							<BatchLine
								key={batch.id}
								batch={batch}
								open={open?.id === batch.id ? open.what : undefined}
								show={(what) => setOpen(what && { id: batch.id, what })}
							/>
						))}
					</tbody>
				</table>
			)}
			<Remembered />
		</section>
	);
}

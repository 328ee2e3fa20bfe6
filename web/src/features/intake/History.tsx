import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { DataTable } from "../../ui/DataTable";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { type Batch, BatchMore, batchColumns, type Shown } from "./BatchLine";
import { Remembered } from "./Remembered";

type Open = { id: number; what: Shown };

/** Everything kept and undone, newest first; undo and put back in any order. */
export function History() {
	const history = useQuery({
		queryKey: ["batches"],
		queryFn: () => unwrap(client.GET("/api/batches")),
	});
	const [open, setOpen] = useState<Open>();
	const show = (batch: Batch, what: Shown | undefined) => setOpen(what && { id: batch.id, what });
	return (
		<section aria-label="History" className="overflow-auto px-5 py-4">
			<h2 className="mb-2 text-base font-bold">What was kept</h2>
			{history.isPending && <Waiting what="Looking up the history" />}
			{history.isError && <Trouble error={history.error} />}
			{history.data?.batches.length === 0 && (
				<p className="text-muted">Nothing yet. A roster comes first, then results.</p>
			)}
			{history.data && history.data.batches.length > 0 && (
				<DataTable
					caption="What was kept"
					rows={history.data.batches}
					keyOf={(batch) => String(batch.id)}
					columns={batchColumns((batch) => (open?.id === batch.id ? open.what : undefined), show)}
					rowClass={(batch) => (batch.event === "kept" ? "" : "text-muted")}
					below={(batch) =>
						open?.id === batch.id && (
							<BatchMore batch={batch} open={open.what} done={() => setOpen(undefined)} />
						)
					}
				/>
			)}
			<Remembered />
		</section>
	);
}

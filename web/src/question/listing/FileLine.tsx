import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";

/** The line of the file that a score came from, as the file has it; looking is noted. */
export function FileLine({ origin }: { origin: Schemas["FileLine"] }) {
	const line = useQuery({
		queryKey: ["line", origin.batch_id, origin.line],
		queryFn: () =>
			unwrap(
				client.GET("/api/batches/{batch_id}/lines", {
					params: { path: { batch_id: origin.batch_id }, query: { line: [origin.line] } },
				}),
			),
	});
	const cells = line.data?.rows[0]?.cells ?? [];
	return (
		<>
			{line.isPending && <Waiting what="Opening the file" />}
			{line.isError && <Trouble error={line.error} />}
			{line.data && (
				<dl className="flex flex-wrap gap-x-5 gap-y-1">
					{line.data.headers.map((header, at) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: a file's columns keep their places
						<div key={at}>
							<dt className="text-xs text-muted">{header}</dt>
							<dd>{cells[at] || "blank"}</dd>
						</div>
					))}
				</dl>
			)}
		</>
	);
}

import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { useCatalogue } from "../../api/catalogue";
import { client, download, type Schemas, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { GridForm } from "./GridForm";
import { GridTable } from "./GridTable";

export type Spec = Schemas["GridSpec"];

/** Students down, results across: to type into here, or to take to a spreadsheet and bring back. */
export function GridPage() {
	const navigate = useNavigate();
	const [spec, setSpec] = useState<Spec>();
	const catalogue = useCatalogue();
	const grid = useQuery({
		queryKey: ["grid", spec],
		enabled: spec !== undefined,
		gcTime: 0,
		queryFn: () => unwrap(client.POST("/api/grid", { body: spec as Spec })),
	});
	const file = useMutation({
		mutationFn: (asked: Spec & { format: "xlsx" | "csv" }) =>
			download("/api/grid/file", asked, `grid.${asked.format}`),
	});
	const typed = useMutation({
		mutationFn: (rows: Schemas["GridRow"][]) =>
			unwrap(
				client.POST("/api/grid/typed", {
					body: { spec: spec as Spec, title: grid.data?.title ?? "Grid", rows },
				}),
			),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.draft_id } }),
	});
	if (catalogue.isError) return <Trouble error={catalogue.error} />;
	if (!catalogue.data) return <Waiting what="Looking up classes and tests" />;
	const error = grid.error ?? file.error ?? typed.error;
	return (
		<div className="flex h-full flex-col overflow-auto px-5 py-4">
			<p className="text-[13px]">
				<Link to="/intake" className="font-semibold text-ahead hover:underline">
					Intake
				</Link>
			</p>
			<h1 className="text-xl font-bold">A grid to fill</h1>
			<p className="mb-3 text-muted">
				Type, paste, or take it to a spreadsheet and bring the file back. Nothing is kept before you
				have seen what would change.
			</p>
			<GridForm
				catalogue={catalogue.data}
				open={setSpec}
				take={(asked, format) => file.mutate({ ...asked, format })}
			/>
			{error && <Trouble error={error} />}
			{grid.isFetching && <Waiting what="Laying out the grid" />}
			{grid.data && spec && (
				<GridTable
					key={JSON.stringify(spec)}
					grid={grid.data}
					busy={typed.isPending}
					look={(rows) => typed.mutate(rows)}
				/>
			)}
		</div>
	);
}

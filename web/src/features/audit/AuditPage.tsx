import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, download, type Schemas, unwrap } from "../../api/client";
import { count } from "../../lib/numbers";
import { moment } from "../../lib/words";
import { type Column, DataTable } from "../../ui/DataTable";
import { FileButton } from "../../ui/FileButton";
import { PageUnder, SETUP } from "../../ui/PageUnder";
import { Trouble } from "../../ui/Trouble";
import { type Asked, Filters } from "./Filters";

type Line = Schemas["AuditLine"];

/** Who looked at which students, took what out, and changed what. */
export function AuditPage() {
	const [asked, setAsked] = useState<Asked>({});
	/** The ids below which each older page begins. */
	const [before, setBefore] = useState<number[]>([]);
	const [failed, setFailed] = useState<unknown>();
	const last = before.at(-1);
	const page = useQuery({
		queryKey: ["audit", asked, last],
		queryFn: () =>
			unwrap(
				client.GET("/api/audit", {
					params: { query: { ...asked, ...(last === undefined ? {} : { before: last }) } },
				}),
			),
		placeholderData: (shown) => shown,
	});
	const lines = page.data?.lines ?? [];
	return (
		<PageUnder
			of={SETUP}
			title="What was done"
			about="Every sign-in, every look at students, what was taken out and what was changed. Lines are only added; nobody changes or removes one, but for the time that they are kept, and for the names of who was erased."
		>
			<Filters
				asked={asked}
				ask={(wanted) => {
					setBefore([]);
					setAsked(wanted);
				}}
			>
				<FileButton
					words="As CSV"
					bring={(signal) => download("/api/audit/csv", asked, "bridge-chart-audit.csv", signal)}
					fail={setFailed}
				/>
			</Filters>
			{(page.isError || failed !== undefined) && <Trouble error={page.error ?? failed} />}
			{page.isSuccess && lines.length === 0 && <p>Nothing of the kind was done.</p>}
			{lines.length > 0 && (
				<DataTable
					caption="What was done, newest first"
					rows={lines}
					keyOf={(line) => String(line.id)}
					columns={COLUMNS}
				/>
			)}
			<p className="mt-3 flex gap-2">
				{before.length > 0 && (
					<button
						type="button"
						className="btn btn-outline btn-sm"
						onClick={() => setBefore(before.slice(0, -1))}
					>
						Newer
					</button>
				)}
				{page.data?.more && (
					<button
						type="button"
						className="btn btn-outline btn-sm"
						onClick={() => setBefore([...before, lines.at(-1)?.id ?? 0])}
					>
						Older
					</button>
				)}
			</p>
		</PageUnder>
	);
}

const COLUMNS: Column<Line>[] = [
	{
		key: "at",
		label: "when",
		side: "left",
		cell: (line) => <span className="whitespace-nowrap">{moment(line.at)}</span>,
	},
	{ key: "login", label: "who", side: "left", cell: (line) => <b>{line.login}</b> },
	{ key: "says", label: "what", side: "left", cell: (line) => line.says },
	{
		key: "students",
		label: "students",
		cell: (line) => (line.students ? count(line.students, "student") : ""),
	},
	{ key: "about", label: "about", side: "left", cell: (line) => line.about },
];

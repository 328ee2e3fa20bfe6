import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { client, download, type Schemas, unwrap } from "../../api/client";
import { count } from "../../lib/numbers";
import { day } from "../../lib/words";
import { type Column, DataTable } from "../../ui/DataTable";
import { FileButton } from "../../ui/FileButton";
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
		<div className="h-full overflow-auto px-5 py-4">
			<p className="text-[13px]">
				<Link to="/setup" className="font-semibold text-ahead hover:underline">
					Setup
				</Link>
			</p>
			<h1 className="text-xl font-bold">What was done</h1>
			<p className="mb-3 text-muted">
				Every sign-in, every look at students, what was taken out and what was changed. Lines are
				only added; nobody changes or removes one.
			</p>
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
		</div>
	);
}

/** An instant as the day and time of whoever looks. */
function moment(iso: string): string {
	const at = new Date(iso);
	const two = (part: number) => String(part).padStart(2, "0");
	const date = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
	return `${day(date)}, ${two(at.getHours())}:${two(at.getMinutes())}`;
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

import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { day } from "../../lib/words";
import { PdfButton } from "../../ui/FileButton";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { ForHome } from "./ForHome";
import { StudentAwards } from "./StudentAwards";
import { NoteForm } from "./StudentNote";
import { StudentRecord } from "./StudentRecord";
import { StudentResults } from "./StudentResults";
import { StudentSays } from "./StudentSays";
import { TimelineChart } from "./TimelineChart";
import type { StudentPageData } from "./timeline";

/** A student: who they are, every result on one line, what stands out, what is next. */
export function StudentPage() {
	const { id } = useParams({ from: "/people/student/$id" });
	const { list } = useSearch({ from: "/people/student/$id" });
	const student = Number(id);
	const [home, setHome] = useState(false);
	const found = useQuery({
		queryKey: ["student", student],
		queryFn: () =>
			unwrap(
				client.GET("/api/students/{id}", {
					params: { path: { id: student }, query: { version: null } },
				}),
			),
	});
	if (found.isError)
		return (
			<div className="p-6">
				<Trouble error={found.error} />
			</div>
		);
	if (!found.data) return <Waiting what="Opening the page" />;
	const page = found.data;
	if (home) return <ForHome page={page} close={() => setHome(false)} />;
	return (
		<div className="student-grid print-flow">
			<div className="print-flow min-w-0 px-5 py-3">
				<Head page={page} list={list} home={() => setHome(true)} />
				<div className="mt-3 grid gap-4 sm:grid-cols-2">
					{page.timelines
						.filter((one) => one.unit !== "none")
						.map((one) => (
							<TimelineChart key={one.about} line={one} results={page.results} />
						))}
				</div>
				<p className="mt-1 text-xs text-muted">
					dot: result, its bar the error of measurement where the test's is declared · shaded: where
					nine in ten similar starters stand
				</p>
				<StudentResults page={page} />
				<StudentAwards credits={page.credits} />
				<Spells page={page} />
			</div>
			<StudentSays page={page} />
		</div>
	);
}

interface HeadProps {
	page: StudentPageData;
	list: number | undefined;
	home: () => void;
}

function Head({ page, list, home }: HeadProps) {
	const [error, setError] = useState<unknown>();
	const now = page.spells.filter((one) => !one.until && !PLACES.includes(one.what));
	const there = page.results.filter((one) => one.value != null || one.level);
	return (
		<header>
			{list !== undefined && (
				<Link
					to="/people"
					search={{ list }}
					className="no-print text-[13px] text-ahead hover:underline"
				>
					← back to the list
				</Link>
			)}
			<div className="flex flex-wrap items-baseline gap-x-3">
				<h1 className="text-xl font-bold">{page.name}</h1>
				<p className="text-muted">
					{[page.number, page.place, page.born && `born ${day(page.born)}`]
						.filter(Boolean)
						.join(" · ")}
				</p>
				<span className="no-print ml-auto flex gap-2">
					<Popover
						label="Write a note"
						title="Note"
						width={340}
						className="btn btn-outline btn-sm"
						trigger="Note"
					>
						{(close) => <NoteForm student={page.id} list={list} done={close} />}
					</Popover>
					<StudentRecord student={page.id} />
					<button type="button" className="btn btn-outline btn-sm" onClick={() => window.print()}>
						Print
					</button>
					<PdfButton fail={setError} />
					<button type="button" className="btn btn-primary btn-sm" onClick={home}>
						Print for home
					</button>
				</span>
			</div>
			{error !== undefined && <Trouble error={error} />}
			<div className="mt-2 flex flex-wrap items-center gap-2">
				{now.map((one) => (
					<span key={one.what} className="rounded-full border border-line px-3 py-0.5 text-[13px]">
						{one.what}: {one.value}
					</span>
				))}
				<span className="ml-auto text-[13px] text-muted">
					{there.length} of {page.results.length} results
					{page.results
						.filter((one) => one.value == null && !one.level)
						.slice(0, 3)
						.map((one) => ` · ${one.label} ${one.why}`)
						.join("")}
				</span>
			</div>
		</header>
	);
}

const PLACES = ["School", "Class", "year level"];

/** Where they were and what held, with dates. */
function Spells({ page }: { page: StudentPageData }) {
	return (
		<details className="mt-4">
			<summary className="cursor-pointer font-semibold">
				Schools, classes and characteristics over time
			</summary>
			<table className="mt-1 text-[13px]">
				<thead>
					<tr className="border-b border-line text-left text-muted">
						<th className="pr-4 font-semibold">what</th>
						<th className="pr-4 font-semibold">was</th>
						<th className="pr-4 font-semibold">from</th>
						<th className="font-semibold">to</th>
					</tr>
				</thead>
				<tbody>
					{page.spells.map((one) => (
						<tr key={`${one.what} ${one.since}`} className="border-b border-line/70">
							<td className="py-0.5 pr-4">{one.what}</td>
							<td className="pr-4 font-semibold">{one.value}</td>
							<td className="pr-4">{day(one.since)}</td>
							<td>{one.until ? day(one.until) : "still"}</td>
						</tr>
					))}
				</tbody>
			</table>
		</details>
	);
}

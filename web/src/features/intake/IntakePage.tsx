import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { FileKind } from "../../api/client";
import { BundleLink } from "./BundleLink";
import { Drop } from "./Drop";
import { History } from "./History";
import { Waiters } from "./Waiters";

/** Where files come in: two places to drop them, what waits, and everything kept so far. */
export function IntakePage() {
	return (
		<div className="grid h-full grid-cols-[340px_1fr]">
			<section aria-label="Bring in" className="overflow-auto border-r border-line px-5 py-4">
				<h1 className="mb-1 text-xl font-bold">Intake</h1>
				<p className="mb-4 text-muted">
					Nothing is kept before you have seen what would be. CSV of any usual encoding, Excel and
					OpenDocument workbooks, Parquet, or a ZIP of several.
				</p>
				<Waiters />
				<Drop
					kind="roster"
					title="A roster"
					help="A row per student: number, school, and whatever else you have."
				/>
				<Drop
					kind="results"
					title="Results"
					help="A row per student and test, or a column per subject."
				/>
				<TableDrop />
				<h2 className="mb-1 font-bold">By hand, and out</h2>
				<ul className="mb-4">
					<li>
						<Link to="/intake/grid" className="font-semibold text-ahead hover:underline">
							A grid of students by results
						</Link>
						<span className="block text-muted">Type, paste, or take it to a spreadsheet.</span>
					</li>
					<li className="mt-1">
						<Link to="/intake/scale" className="font-semibold text-ahead hover:underline">
							A scale of grades or levels
						</Link>
						<span className="block text-muted">Order, points, pass line, cut scores.</span>
					</li>
					<li className="mt-1">
						<Link to="/intake/movement" className="font-semibold text-ahead hover:underline">
							Credit for movement
						</Link>
						<span className="block text-muted">Which move between levels earns what.</span>
					</li>
					<li className="mt-1">
						<Link to="/intake/award" className="font-semibold text-ahead hover:underline">
							The rule of an award
						</Link>
						<span className="block text-muted">What it asks for, tried on three students.</span>
					</li>
					<li className="mt-1">
						<Link to="/intake/exact" className="font-semibold text-ahead hover:underline">
							How exact a score is
						</Link>
						<span className="block text-muted">Its reliability, or its error of measurement.</span>
					</li>
					<li className="mt-1">
						<BundleLink />
					</li>
					<li className="mt-1">
						<a href="/api/export" download className="font-semibold text-ahead hover:underline">
							Everything, as tables
						</a>
						<span className="block text-muted">
							The merged record: one table per kind, Parquet and CSV, each column described.
						</span>
					</li>
				</ul>
			</section>
			<History />
		</div>
	);
}

const TABLES = [
	{
		key: "credits",
		label: "credit records",
		help: "A row per student and standard, banked or estimated.",
	},
	{ key: "scale", label: "a scale", help: "A row per grade or level." },
	{
		key: "questions",
		label: "questions of a test",
		help: "A row per question: strand, topic, key.",
	},
	{ key: "national", label: "national figures", help: "A row per figure of a test." },
	{
		key: "expectation",
		label: "expected outcomes",
		help: "A row per starting point: what is expected from it.",
	},
	{
		key: "conversion",
		label: "a conversion",
		help: "A row per score: what it is on another scale.",
	},
	{
		key: "movement",
		label: "credit for movement",
		help: "A row per move from one level to another: the credit that it earns.",
	},
	{
		key: "award",
		label: "award rules",
		help: "A row per condition: how many credits, of what, in how many subjects.",
	},
	{
		key: "practice",
		label: "estimates from practice",
		help: "A row per practice result and standard: which record it counts as.",
	},
	{
		key: "reliability",
		label: "how exact scores are",
		help: "A row per score: its reliability, or its error of measurement.",
	},
	{
		key: "names",
		label: "names that mean the same",
		help: "A row per name: what it means from now on (docs/formats.md). Setup has a page for it.",
	},
	{
		key: "next_steps",
		label: "next steps",
		help: "A row per strand and level: what the district does next. Students' pages show it.",
	},
] as const;

/** Credit records and tables of reference: what each holds is said first, for their columns look
 * alike. */
function TableDrop() {
	const [kind, setKind] = useState<FileKind>("scale");
	return (
		<>
			<label className="mb-1 flex items-center gap-2">
				<span className="font-bold">Other tables:</span>
				<select
					className="select select-sm w-40"
					value={kind}
					onChange={(event) => setKind(event.target.value as FileKind)}
				>
					{TABLES.map((table) => (
						<option key={table.key} value={table.key}>
							{table.label}
						</option>
					))}
				</select>
			</label>
			<Drop kind={kind} title="" help={TABLES.find((table) => table.key === kind)?.help ?? ""} />
		</>
	);
}

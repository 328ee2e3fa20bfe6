import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { day, levelName } from "../../lib/words";
import { PdfButton } from "../../ui/FileButton";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import type { AskedPublished } from "./asked";
import { FigureRows } from "./FigureRows";
import { LevelRows } from "./LevelRows";

type Place = Schemas["PublishedPlace"];
type Test = Schemas["PublishedTest"];

/** The district as it is published: no student, no small number, nothing to work one out of. */
export function PublishedPage() {
	const asked = useSearch({ from: "/published" });
	const navigate = useNavigate({ from: "/published" });
	const place = useQuery({
		queryKey: ["published"],
		queryFn: () => unwrap(client.GET("/api/published")),
	});
	if (place.isError)
		return (
			<div className="p-6">
				<Trouble error={place.error} />
			</div>
		);
	if (!place.data) return <Waiting what="Looking up what is published" />;
	const told = place.data;
	const test = told.tests.find((one) => one.key === asked.test) ?? told.tests[0];
	if (!test)
		return (
			<div className="max-w-2xl px-5 py-4">
				<h1 className="text-xl font-bold">Published</h1>
				<p className="text-muted">
					{told.released
						? `What was released on ${day(told.released)} has no test with year levels, by which figures are published. Rosters say who is in which.`
						: "Nothing of the district is published yet. Its data lead releases the figures, once a period, at Setup."}
				</p>
			</div>
		);
	const change = (to: AskedPublished) =>
		navigate({ search: { test: test.key, ...to }, replace: true });
	return <Chosen {...{ told, test, level: asked.level, by: asked.by, change }} />;
}

interface ChosenProps {
	told: Place;
	test: Test;
	/** Undefined: a row for each. */
	level: number | undefined;
	by: number | undefined;
	change: (to: AskedPublished) => void;
}

function Chosen({ told, test, level, by, change }: ChosenProps) {
	const [failed, setFailed] = useState<unknown>();
	const query = {
		test: test.key,
		...(level === undefined ? {} : { year_level: level }),
		...(by ? { by } : {}),
	};
	const found = useQuery({
		queryKey: ["published", query],
		queryFn: () => unwrap(client.GET("/api/published/figures", { params: { query } })),
	});
	const csv = `/api/published/csv?${new URLSearchParams(
		Object.entries(query).map(([key, value]) => [key, String(value)]),
	)}`;
	return (
		<div className="print-flow h-full overflow-auto px-5 py-4">
			<div className="flex flex-wrap items-baseline gap-x-4">
				<h1 className="text-xl font-bold">
					{test.label}
					{level !== undefined && `, ${levelName(level)}`}
				</h1>
				<span className="no-print ml-auto flex gap-2">
					<a className="btn btn-outline btn-sm" href={csv} download>
						As CSV
					</a>
					<PdfButton fail={setFailed} />
				</span>
			</div>
			<p className="mb-4 text-muted">
				The whole district, as released
				{found.data?.as_of ? ` on ${day(found.data.as_of)}` : ""}. Groups of fewer than ten students
				or three schools are held back, and as many more as it takes so that nobody can work them
				out. Shares are written in steps of ten students or more.
			</p>
			<Choices {...{ told, test, level, by, change }} />
			{(found.isError || failed !== undefined) && <Trouble error={found.error ?? failed} />}
			{found.isPending && <Waiting what="Looking up the figures" />}
			{found.data &&
				(found.data.steps.length ? (
					<LevelRows figures={found.data} />
				) : (
					<FigureRows figures={found.data} />
				))}
		</div>
	);
}

function Choices({ told, test, level, by, change }: ChosenProps) {
	function other(key: string): void {
		const next = told.tests.find((one) => one.key === key);
		if (!next) return;
		const stays = level !== undefined && next.year_levels.includes(level);
		change({ test: key, ...(stays ? asked(level, by) : {}) });
	}
	return (
		<form aria-label="What is looked at" className="no-print mb-5 flex flex-wrap gap-4">
			<Pick label="Test" value={test.key} choose={other}>
				{told.tests.map((one) => (
					<option key={one.key} value={one.key}>
						{one.label}, {SCORES[one.score] ?? one.score}
					</option>
				))}
			</Pick>
			<Pick
				label="Year level"
				value={String(level ?? "")}
				choose={(one) => change(one ? asked(Number(one), by) : {})}
			>
				<option value="">each</option>
				{test.year_levels.map((one) => (
					<option key={one} value={one}>
						{levelName(one)}
					</option>
				))}
			</Pick>
			<Pick
				label="By"
				value={String(by ?? "")}
				choose={(one) => change(asked(level ?? test.year_levels[0], one ? Number(one) : undefined))}
			>
				<option value="">nothing</option>
				{told.by.map((one) => (
					<option key={one.id} value={one.id}>
						{one.label}
					</option>
				))}
			</Pick>
		</form>
	);
}

/** A characteristic is published within one year level. */
function asked(level: number | undefined, by: number | undefined): AskedPublished {
	return {
		...(level === undefined ? {} : { level }),
		...(by === undefined ? {} : { by }),
	};
}

const SCORES: Record<string, string> = {
	raw: "marks",
	percent: "per cent",
	scaled: "scaled score",
	level: "levels",
	grade: "grades",
};

interface PickProps {
	label: string;
	value: string;
	choose: (value: string) => void;
	children: React.ReactNode;
}

function Pick({ label, value, choose, children }: PickProps) {
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<select
				className="select select-sm w-auto max-w-[480px]"
				value={value}
				onChange={(event) => choose(event.target.value)}
			>
				{children}
			</select>
		</label>
	);
}

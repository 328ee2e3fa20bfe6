import { useState } from "react";
import { figure } from "../../lib/numbers";
import { day } from "../../lib/words";
import { TimelineChart } from "./TimelineChart";
import type { Result, StudentPageData } from "./timeline";

interface Props {
	page: StudentPageData;
	close: () => void;
}

/** One page to take home: plain words, nobody else to be told, others' standing only if wanted. */
export function ForHome({ page, close }: Props) {
	const [others, setOthers] = useState(true);
	const newest = newestOf(page);
	const weakest = page.strands.map((one) => one.strands[0]).find((one) => one !== undefined);
	return (
		<div className="for-home mx-auto max-w-3xl p-6 text-[15px]">
			<div className="no-print mb-4 flex items-center gap-3">
				<button type="button" className="btn btn-primary btn-sm" onClick={() => window.print()}>
					Print
				</button>
				<label className="flex items-baseline gap-2">
					<input
						type="checkbox"
						className="relative top-0.5 accent-(--color-ahead)"
						checked={others}
						onChange={(event) => setOthers(event.target.checked)}
					/>
					Say how other students do
				</label>
				<button type="button" className="btn btn-ghost btn-sm ml-auto" onClick={close}>
					Back to the page
				</button>
			</div>
			<h1 className="text-2xl font-bold">{page.name}</h1>
			<p className="mb-4 text-muted">{page.place.replace(/ \([^)]*\)/g, "")}</p>
			<h2 className="mt-3 text-lg font-bold">Latest results</h2>
			<table className="w-full">
				<tbody>
					{newest.map((one) => (
						<tr key={one.label} className="border-b border-line align-top">
							<th scope="row" className="py-1.5 pr-3 text-left">
								{one.about}
								<small className="block font-normal text-muted">{day(one.date)}</small>
							</th>
							<td className="py-1.5">{inPlainWords(one, others)}</td>
						</tr>
					))}
				</tbody>
			</table>
			{others && (
				<>
					<h2 className="mt-4 text-lg font-bold">Over time</h2>
					<div className="grid grid-cols-2 gap-4">
						{page.timelines
							.filter((one) => one.unit !== "none" && one.results.length > 1)
							.slice(0, 4)
							.map((one) => (
								<TimelineChart
									key={one.about}
									line={one}
									results={page.results}
									called={
										one.unit === "percentile"
											? "of 100 students in the nation, how many stand lower"
											: "0 is the middle of the year here; two thirds stand between −1 and +1"
									}
								/>
							))}
					</div>
					<p className="text-sm text-muted">
						The shaded part is where nine in ten students who started alike stand.
					</p>
				</>
			)}
			{page.next_steps.length > 0 && (
				<>
					<h2 className="mt-4 text-lg font-bold">What comes next</h2>
					<ul className="list-disc pl-5">
						{page.next_steps.map((one) => (
							<li key={one.text}>
								{one.strand}: {one.text}
							</li>
						))}
					</ul>
					{weakest && (
						<p className="text-sm text-muted">
							This rests on {weakest.questions} questions of one test, so it is a hint.
						</p>
					)}
				</>
			)}
			<p className="mt-6 text-sm text-muted">
				One test on one day is a small part of what a student can do. Please ask the school about
				anything on this page.
			</p>
		</div>
	);
}

/** The newest result of each subject. */
function newestOf(page: StudentPageData): Result[] {
	const seen = new Map<string, Result>();
	for (const one of page.results)
		if ((one.value != null || one.level) && !seen.has(one.about)) seen.set(one.about, one);
	return [...seen.values()];
}

function inPlainWords(result: Result, others: boolean): string {
	const reached = result.level
		? `${result.level}${result.value == null ? "" : ` (${figure(result.value, result.decimals)} points)`}`
		: `${figure(result.value, result.decimals)} ${result.unit}`;
	const target = result.claims?.find((one) => one.label.includes("target"));
	const parts = [`${reached}.`];
	if (target) parts.push(`The target is ${target.value}.`);
	if (others && result.span != null) {
		const words =
			result.sign === "ahead"
				? "That is more than most students who started alike reached."
				: result.sign === "behind"
					? "That is less than most students who started alike reached."
					: "That is about what students who started alike reach.";
		parts.push(words);
	}
	return parts.join(" ");
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { client, type Schemas, unwrap } from "../../api/client";
import { percent } from "../../lib/numbers";
import { SYMBOL, tone } from "../../lib/verdicts";
import { day } from "../../lib/words";
import type { StudentPageData } from "./timeline";

/** What the page says in words: what stands out, strands, next steps, notes, lists. */
export function StudentSays({ page }: { page: StudentPageData }) {
	return (
		<aside aria-label="What it says" className="border-l border-line px-4 py-3">
			<h2 className="mb-1 font-semibold">What it says</h2>
			<ul className="space-y-2">
				{page.says.map((one) => (
					<li key={one.text} className="flex gap-2">
						<span aria-hidden="true" className={`w-3 shrink-0 ${tone(one.sign ?? "")}`}>
							{SYMBOL[one.sign ?? ""] || (one.kind === "chance" ? "·" : "")}
						</span>
						<span className={one.kind === "chance" ? "text-muted" : ""}>{one.text}</span>
					</li>
				))}
				{page.says.length === 0 && (
					<li className="text-muted">No result can be held against where they started yet.</li>
				)}
			</ul>
			{page.strands.map((one) => (
				<Strands key={one.label} strands={one} />
			))}
			{page.next_steps.length > 0 && (
				<section aria-label="Next steps">
					<h2 className="mt-4 mb-1 font-semibold">Next steps</h2>
					<ul className="space-y-1">
						{page.next_steps.map((one) => (
							<li key={`${one.strand} ${one.text}`}>
								<b>{one.strand}</b>
								{one.level && ` from ${one.level}`}: {one.text} <Where link={one.link} />
							</li>
						))}
					</ul>
					<p className="text-xs text-muted">From the district's own table.</p>
				</section>
			)}
			<Notes page={page} />
			{page.lists.length > 0 && (
				<section aria-label="Lists they are in">
					<h2 className="mt-4 mb-1 font-semibold">In the lists</h2>
					<ul>
						{page.lists.map((one) => (
							<li key={one.id}>
								<Link to="/people" search={{ list: one.id }} className="text-ahead hover:underline">
									{one.name}
								</Link>
								{one.review && `, review ${day(one.review)}`}
							</li>
						))}
					</ul>
				</section>
			)}
		</aside>
	);
}

function Where({ link }: { link: string }) {
	if (!/^https?:\/\//.test(link)) return <span className="text-muted">{link}</span>;
	return (
		<a href={link} rel="noreferrer noopener" target="_blank" className="text-ahead underline">
			open
		</a>
	);
}

/** The student's share of each strand beside that of the others on the same questions. */
function Strands({ strands }: { strands: Schemas["Strands"] }) {
	const weakest = strands.strands[0];
	const below = weakest?.others != null && weakest.share < weakest.others;
	return (
		<section aria-label={`Strands, ${strands.label}`}>
			<h2 className="mt-4 mb-1 font-semibold">Strands, {strands.label}</h2>
			<ul>
				{strands.strands.map((one) => (
					<li
						key={one.strand}
						className="grid grid-cols-[1fr_110px_34px] items-center gap-2 py-0.5"
					>
						<span className={one.beyond === "behind" ? "font-semibold" : ""}>
							{one.strand}
							{one.beyond !== "none" && one.beyond !== "" && (
								<span className={tone(one.beyond)}> {SYMBOL[one.beyond]}</span>
							)}
						</span>
						<svg
							viewBox="0 0 110 16"
							role="img"
							aria-label={`${percent(one.share)}; the others ${percent(one.others)}`}
						>
							<rect y="5" width="110" height="6" rx="3" fill="var(--color-line)" />
							{one.others != null && (
								<path d={`M${110 * one.others} 1V15`} stroke="var(--color-ink)" strokeWidth="2.5" />
							)}
							<circle
								cx={Math.max(5, Math.min(105, 110 * one.share))}
								cy="8"
								r="5"
								fill={one.beyond === "behind" ? "var(--color-behind)" : "var(--color-neither)"}
							/>
						</svg>
						<small className="text-muted">{one.questions} q.</small>
					</li>
				))}
			</ul>
			<p className="text-xs text-muted">
				dot: {`${strands.about}, this student`}; line: others on the same form in the same year (
				{weakest?.others_n}).
				{below &&
					` Weakest beside them: ${weakest.strand}; with ${weakest.questions} questions, take it as a hint.`}
			</p>
		</section>
	);
}

function Notes({ page }: { page: StudentPageData }) {
	const queries = useQueryClient();
	const remove = useMutation({
		mutationFn: (id: number) =>
			unwrap(client.DELETE("/api/student-notes/{id}", { params: { path: { id } } })),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["student", page.id] }),
	});
	if (!page.notes.length) return null;
	return (
		<section aria-label="Notes">
			<h2 className="mt-4 mb-1 font-semibold">Notes</h2>
			<ul className="space-y-1">
				{page.notes.map((one) => (
					<li key={one.id}>
						<b>{one.by}</b>, {day(one.at)}: {one.text}
						{!one.shared && <small className="text-muted"> (only you)</small>}
						{one.own && (
							<button
								type="button"
								className="no-print ml-2 text-[13px] text-ahead hover:underline"
								onClick={() => remove.mutate(one.id)}
							>
								Remove
							</button>
						)}
					</li>
				))}
			</ul>
		</section>
	);
}

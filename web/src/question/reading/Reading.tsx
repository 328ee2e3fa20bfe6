import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Answer, Open, Question } from "../../api/client";
import { downloadCsv, downloadDictionary, downloadWorkbook } from "../../api/client";
import { count, figure } from "../../lib/numbers";
import { MEANING, SYMBOL, tone } from "../../lib/verdicts";
import { capitalised, inSigns, levelName, yearLevel } from "../../lib/words";
import { FileButton, PdfButton } from "../../ui/FileButton";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";
import { KeepQuestion } from "../keeping/KeepQuestion";
import { ForOutside } from "./ForOutside";
import { Notes } from "./Keeping";

interface Props {
	answer: Answer;
	question: Question;
	ask: (question: Question) => void;
	open: (mark: Open) => void;
	detail: boolean;
	setDetail: (shown: boolean) => void;
}

/** The right side: the chart read aloud, how it is worked out, and what can be done with it. */
export function Reading({ answer, question, ask, open, detail, setDetail }: Props) {
	return (
		<aside
			aria-label="What it says"
			className="print-flow flex min-h-0 flex-col border-l border-line"
		>
			<div className="print-flow min-h-0 flex-1 overflow-auto px-4 py-3">
				<h2 className="mb-2 text-xs font-semibold text-muted">What it says</h2>
				<ul className="space-y-2.5">
					{answer.readings.map((reading) => (
						<li key={reading.text} className="grid grid-cols-[20px_1fr] leading-snug">
							<span className={tone(reading.kind)} title={MEANING[reading.kind]} aria-hidden="true">
								{SYMBOL[reading.kind] || "·"}
							</span>
							<span>{reading.text}</span>
						</li>
					))}
				</ul>
				{answer.warnings.length > 0 && (
					<ul className="mt-3 space-y-1 border-l-[3px] border-amber pl-3 text-[13px] text-amber-ink">
						{answer.warnings.map((warning) => (
							<li key={warning.text}>
								{warning.text}
								{warning.instead && (
									<button
										type="button"
										className="no-print ml-1 font-semibold underline"
										onClick={() => ask({ ...question, ...warning.instead })}
									>
										Ask that instead
									</button>
								)}
							</li>
						))}
					</ul>
				)}
				<h2 className="mt-3 border-t border-line pt-3 mb-1 font-semibold">
					How this is worked out
				</h2>
				<ul className="space-y-1.5 text-[13px] text-muted">
					{answer.method.says.map((line) => (
						<li key={line}>{line}</li>
					))}
				</ul>
				<button
					type="button"
					className="no-print mt-1 self-start text-[13px] font-semibold text-ahead hover:underline"
					aria-expanded={detail}
					onClick={() => setDetail(!detail)}
				>
					{detail ? "Less" : "Everything that went in"}
				</button>
				<Link
					to="/methods/$page"
					params={{ page: answer.method.page.replace(/^methods\/|\.md$/g, "") }}
					className="no-print mt-1 block text-[13px] font-semibold text-ahead hover:underline"
				>
					The full page of this method
				</Link>
				{detail && <Facts answer={answer} />}
				<Notes question={question} />
			</div>
			<Actions answer={answer} question={question} open={open} />
		</aside>
	);
}

function Facts({ answer }: { answer: Answer }) {
	const lines = answer.method.facts.year_levels as
		| { year_level: number | null; n: number; slope: number | null; residual_sd: number | null }[]
		| undefined;
	const plain = Object.entries(answer.method.facts).filter(
		([, value]) => typeof value !== "object",
	);
	return (
		<div className="mt-2 text-xs text-muted">
			<p>
				Version {answer.resolved.version}, {answer.engine}.{" "}
				{Object.values(answer.resolved.sittings).join("; ")}.
			</p>
			<dl className="mt-1 grid grid-cols-[1fr_auto] gap-x-2">
				{plain.map(([key, value]) => (
					<div key={key} className="contents">
						<dt>{key.replaceAll("_", " ")}</dt>
						<dd className="max-w-[130px] text-right">
							{typeof value === "number"
								? inSigns(String(Number(value.toFixed(3))))
								: String(value)}
						</dd>
					</div>
				))}
			</dl>
			{lines && (
				<table className="mt-2 w-full text-right">
					<thead>
						<tr>
							<th className="text-left font-semibold">{capitalised(yearLevel())}</th>
							<th className="font-semibold">n</th>
							<th className="font-semibold">slope</th>
							<th className="font-semibold">error sd</th>
						</tr>
					</thead>
					<tbody>
						{lines.map((line) => (
							<tr key={line.year_level}>
								<td className="text-left">
									{line.year_level === null ? "–" : levelName(line.year_level)}
								</td>
								<td>{line.n}</td>
								<td>{figure(line.slope, 2) || "–"}</td>
								<td>{figure(line.residual_sd) || "–"}</td>
							</tr>
						))}
					</tbody>
				</table>
			)}
		</div>
	);
}

function Actions({ answer, question, open }: Omit<Props, "detail" | "setDetail" | "ask">) {
	const everybody = answer.coverage[0]?.opens;
	const [copied, setCopied] = useState("");
	const [error, setError] = useState<unknown>();
	function copy(pinned: boolean): void {
		const url = new URL(window.location.href);
		if (pinned)
			url.searchParams.set("q", JSON.stringify({ ...question, version: answer.resolved.version }));
		navigator.clipboard
			.writeText(url.toString())
			.then(() => setCopied(pinned ? "Copied; it will always show these data." : "Copied."))
			.catch(() => setCopied("The browser does not allow copying here."));
	}
	return (
		<div className="no-print space-y-2 border-t border-line px-4 pt-3 pb-1">
			{everybody && (
				<button
					type="button"
					className="btn btn-outline btn-sm w-full"
					onClick={() => open(everybody)}
				>
					See the {count(answer.coverage[0]?.population ?? 0, "student")}
				</button>
			)}
			<div className="grid grid-cols-[1fr_1fr_auto] gap-1.5">
				<button type="button" className="btn btn-outline btn-sm px-1" onClick={() => copy(false)}>
					Copy link
				</button>
				<button type="button" className="btn btn-outline btn-sm px-1" onClick={() => copy(true)}>
					Copy as it was
				</button>
				<Popover
					label="Keep this question"
					title="Keep this question"
					width={280}
					above
					className="btn btn-outline btn-sm px-2"
					trigger="Keep"
				>
					{() => (
						<KeepQuestion question={question} name={answer.sentence.replace(/^How did /, "")} />
					)}
				</Popover>
			</div>
			<div className="grid grid-cols-2 gap-1.5">
				<button
					type="button"
					className="btn btn-primary btn-sm col-span-2"
					onClick={() => downloadCsv(question).then(() => setError(undefined), setError)}
				>
					Export these numbers
				</button>
				<FileButton
					words="Workbook"
					className="btn btn-outline btn-sm px-2"
					bring={(signal) => downloadWorkbook(question, signal)}
					fail={setError}
				/>
				<FileButton
					words="Dictionary"
					className="btn btn-outline btn-sm px-2"
					bring={(signal) => downloadDictionary(question, signal)}
					fail={setError}
				/>
				<PdfButton className="btn btn-outline btn-sm px-2" fail={setError} />
				<ForOutside question={question} fail={setError} />
			</div>
			<p role="status" className="min-h-4 text-xs text-muted">
				{copied}
			</p>
			{error !== undefined && <Trouble error={error} />}
		</div>
	);
}

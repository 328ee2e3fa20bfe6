import type { Schemas } from "../../api/client";
import { figure, range, signed } from "../../lib/numbers";
import { MEANING, SYMBOL, tone } from "../../lib/verdicts";
import { levelName } from "../../lib/words";
import { partOf, plainOf } from "../model/question";
import type { Shown } from "./columns";

/** A value with what stands beside it: its level, what it is held against, how far, and the mark. */
export function StudentCell({ column, at }: { column: Shown; at: number }) {
	const value = column.values[at];
	if (column.kind === "verdict") return <Mark word={String(value ?? "")} />;
	const why = column.why?.[at];
	const words = inWords(column, value);
	if (why && ofQuestion(column)) return <Blank why={why} words={words} />;
	if (!words) return why ? <span className="text-xs text-muted">– {why}</span> : null;
	const sign = column.sign?.[at] ?? "";
	const of = column.of?.[at];
	const away = column.away?.[at];
	return (
		<span className={`whitespace-nowrap ${sign ? tone(sign) : ""}`}>
			{words}
			{column.level?.[at] && <small className="text-ink"> {column.level[at]}</small>}
			{of != null && of !== "" && (
				<small className="text-muted">
					{" "}
					of {typeof of === "number" ? figure(of, column.decimals ?? 1) : String(of)}
				</small>
			)}
			{away != null && (
				<span className="ml-1.5 inline-block min-w-6 text-right">
					{signed(away, column.kind === "text" ? 0 : 1)}
				</span>
			)}
			{sign && <Mark word={sign} />}
		</span>
	);
}

/** Whether a column has the marks of one question. */
function ofQuestion({ asked }: Shown): boolean {
	if (!asked || typeof asked === "string" || !("measure" in asked)) return false;
	const part = partOf(plainOf(asked.measure));
	return part?.kind === "question";
}

/** A blank of a question: left out (none won), or not reached. */
function Blank({ why, words }: { why: string; words: string }) {
	return (
		<span title={why}>
			{words}
			<span aria-hidden="true" className="text-muted">
				{words ? " ·" : "–"}
			</span>
			<span className="sr-only"> {why}</span>
		</span>
	);
}

function inWords(column: Shown, value: unknown): string {
	if (column.kind === "text") return String(value ?? "");
	if (typeof value !== "number") return "";
	if (column.key === "year_level") return levelName(value);
	if (column.kind === "signed") return signed(value);
	return figure(value, column.decimals ?? 1);
}

function Mark({ word }: { word: string }) {
	return (
		<span className={`ml-1 inline-block min-w-3 ${tone(word)}`}>
			<span aria-hidden="true">{SYMBOL[word]}</span>
			<span className="sr-only">{MEANING[word] ? word : ""}</span>
		</span>
	);
}

const SHADES = {
	"-3": "bg-[color-mix(in_srgb,var(--color-behind)_26%,var(--color-paper))]",
	"-2": "bg-[color-mix(in_srgb,var(--color-behind)_16%,var(--color-paper))]",
	"-1": "bg-[color-mix(in_srgb,var(--color-behind)_8%,var(--color-paper))]",
	"0": "bg-wash",
	"1": "bg-[color-mix(in_srgb,var(--color-ahead)_8%,var(--color-paper))]",
	"2": "bg-[color-mix(in_srgb,var(--color-ahead)_16%,var(--color-paper))]",
	"3": "bg-[color-mix(in_srgb,var(--color-ahead)_26%,var(--color-paper))]",
} as const;

/** How a cell is shaded by the column's own line: below it rust, above it teal, stronger by step. */
export function shade(value: number | null | undefined): string {
	if (value == null) return "";
	const key = String(Math.max(-3, Math.min(3, Math.round(value))));
	return key in SHADES ? SHADES[key as keyof typeof SHADES] : "";
}

/** What a column comes to: with how many, and the interval of a mean. */
export function TotalCell({ column, total }: { column: Shown; total: Schemas["Total"] }) {
	const of = total.missing ? `${total.n} of ${total.n + total.missing}` : `${total.n}`;
	if (total.counts?.length)
		return (
			<span title={`${of} known`}>
				{total.counts.map((one) => `${figure(one.n, 0)} ${one.label}`).join(", ")}
				{total.missing > 0 && <small className="block text-muted">{of} known</small>}
			</span>
		);
	if (total.mean == null && total.met == null) return null;
	const told = column.kind === "signed" ? signed(total.mean) : figure(total.mean);
	return (
		<span className="whitespace-nowrap">
			{total.mean != null && told}
			{total.met != null && <span> {figure(total.met, 0)} on or above</span>}
			<small className="block text-muted" title={`mean of ${of}; median ${figure(total.median)}`}>
				{total.low != null && <span className="block">{range(total.low, total.high)}</span>}
				{of}
			</small>
		</span>
	);
}

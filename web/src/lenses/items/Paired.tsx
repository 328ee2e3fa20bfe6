import type { Schemas } from "../../api/client";
import { percent } from "../../lib/numbers";
import { GroupShape } from "./marks";
import { interval } from "./Options";

type Body = Schemas["ItemsBody"];

/** The classes beside one's own of which there are enough, in the order of each row's figures. */
export function shownPaired(body: Body): Schemas["PairedClass"][] {
	return (body.paired ?? []).filter((one) => !one.few);
}

/** Which mark is that of a paired class; and which has too few to be shown. */
export function Beside({ body, shape }: { body: Body; shape: number }) {
	const shown = shownPaired(body);
	return (
		<>
			{(body.paired ?? []).map((one) => (
				<span key={one.label} className="flex items-center gap-1.5">
					{!one.few && (
						<svg width="16" height="16" aria-hidden="true">
							<GroupShape shape={shape + shown.indexOf(one)} x={8} y={8} paint="var(--color-ink)" />
						</svg>
					)}
					{one.label}, {one.n}
					{one.few ? ": too few sat it to be shown" : ", paired for a talk"}
				</span>
			))}
		</>
	);
}

/** What a paired class chose and wrote: figures, and texts that three or more wrote alike. */
export function PairedAnswers({ row }: { row: Schemas["Looked"] }) {
	return (
		<>
			{(row.paired ?? []).map((one) => (
				<div key={one.label} className="max-w-80 min-w-56 flex-1 text-[13px]">
					<h3 className="font-semibold">
						{one.label} <span className="font-normal text-muted">({one.n})</span>
					</h3>
					<Chosen row={row} one={one} />
					{one.written.n > 0 && (
						<>
							<h4 className="mt-1 font-semibold">
								wrote <span className="font-normal text-muted">({one.written.n})</span>
							</h4>
							<ul>
								{one.written.texts.map((text) => (
									<li key={text.text}>
										“{text.text}”{" "}
										<span className="whitespace-nowrap text-muted">· {text.n} like this</span>
									</li>
								))}
							</ul>
							{(one.written.others ?? 0) > 0 && (
								<p className="text-muted">
									{one.written.others} wrote what fewer than three did, which is theirs alone.
								</p>
							)}
						</>
					)}
				</div>
			))}
		</>
	);
}

function Chosen({ row, one }: { row: Schemas["Looked"]; one: Schemas["PairedAnswers"] }) {
	const options = one.options ?? [];
	if (options.length === 0) return null;
	return (
		<table className="text-left">
			<caption className="sr-only">Which option {one.label} chose</caption>
			<tbody>
				{(row.options ?? []).map((option, n) => (
					<tr key={option.option} className={option.right ? "font-bold" : ""}>
						<th scope="row" className={`pr-3 ${option.right ? "font-bold" : "font-normal"}`}>
							{option.option}
							{option.right && <span className="text-ahead"> ✓</span>}
						</th>
						<td className="pr-2 text-right" title={interval(options[n] ?? {})}>
							{percent(options[n]?.share)}
							<span className="sr-only">, {interval(options[n] ?? {})}</span>
						</td>
						<td className="text-right text-[11px] font-normal text-muted">{options[n]?.n}</td>
					</tr>
				))}
			</tbody>
		</table>
	);
}

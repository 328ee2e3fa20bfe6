import type { Answer, Dimension, Question, Schemas } from "../../api/client";
import { ends, linear } from "../../charts/scale";
import { figure, range } from "../../lib/numbers";
import { splitKey } from "../model/splits";

interface Props {
	answer: Answer | undefined;
	question: Question;
	choose: (dimension: Dimension) => void;
	/** With the largest differences first. */
	largest: boolean;
	setLargest: (largest: boolean) => void;
}

const WIDTH = 76;

/** For every characteristic, how far apart its groups are, before any click. */
export function Strip({ answer, question, choose, largest, setLargest }: Props) {
	const given = answer?.body.show === "strip" ? answer.body.entries : [];
	const entries = largest
		? [...given].sort((a, b) => Math.abs(b.size ?? 0) - Math.abs(a.size ?? 0))
		: given;
	const now = splitKey(question.split?.[0]);
	const values = entries.flatMap((entry) => entry.marks.map((mark) => mark.value));
	const x = linear(ends(question.against ? [0, ...values] : values), [5, WIDTH - 5]);
	return (
		<nav aria-label="Split by" className="no-print overflow-auto border-r border-line py-3">
			<div className="flex items-center justify-between px-4 pb-2 text-xs text-muted">
				<h2 className="font-semibold">Split by</h2>
				<button
					type="button"
					className="text-ahead hover:underline"
					onClick={() => setLargest(!largest)}
				>
					{largest ? "as listed" : "largest first"}
				</button>
			</div>
			<ul>
				{entries.map((entry) => {
					const key = splitKey(entry.dimension);
					return (
						<li key={key}>
							<button
								type="button"
								aria-pressed={key === now}
								title={counts(entry)}
								onClick={() => choose(entry.dimension)}
								className={`flex w-full items-center justify-between gap-1 border-l-[3px] px-3 py-1.5 text-left hover:bg-wash ${key === now ? "border-ahead bg-ahead-wash" : "border-transparent"}`}
							>
								<span className="min-w-0">
									<span className={`block ${key === now ? "font-bold" : ""}`}>{entry.label}</span>
									<span className="block text-xs text-muted">{summary(entry)}</span>
								</span>
								<Marks entry={entry} x={x} against={Boolean(question.against)} />
							</button>
						</li>
					);
				})}
			</ul>
		</nav>
	);
}

/** The size in words; what chance alone could give is not given a number to rank by. */
function summary(entry: Schemas["StripEntry"]): string {
	if (entry.size === null || entry.size === undefined) return "too few to say";
	if (!entry.beyond_chance) return "within chance";
	return `${entry.kind} ${figure(Math.abs(entry.size))}`;
}

/** n, missing, and the interval where there is one. */
function counts(entry: Schemas["StripEntry"]): string {
	const held = `${figure(entry.n, 0)} counted, ${figure(entry.missing, 0)} missing`;
	const interval = range(entry.low, entry.high);
	return interval ? `${held} · 95% interval of the gap ${interval}` : held;
}

interface MarksProps {
	entry: Schemas["StripEntry"];
	x: (value: number) => number;
	against: boolean;
}

function Marks({ entry, x, against }: MarksProps) {
	return (
		<svg width={WIDTH} height="14" aria-hidden="true" className="shrink-0">
			{against && <path d={`M${x(0)} 0V14`} stroke="var(--color-line)" />}
			{entry.marks.map((mark) => (
				<circle
					key={mark.label}
					cx={x(mark.value)}
					cy="7"
					r="3"
					fill="var(--color-neither)"
					fillOpacity="0.65"
				/>
			))}
		</svg>
	);
}

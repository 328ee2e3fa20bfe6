import type { Open, Schemas } from "../api/client";
import { figure } from "../lib/numbers";

type Bar = Schemas["Mark"];

/** How a state is drawn: filled, hatched one way, hatched the other way; so that grey print reads. */
interface Look {
	fill: string;
	hatch: string | null;
	ink: string;
}

const MET: Look = { fill: "var(--color-ahead)", hatch: null, ink: "text-paper" };
const ON_COURSE: Look = {
	fill: "color-mix(in oklab, var(--color-ahead) 18%, var(--color-paper))",
	hatch: "award-course",
	ink: "text-ahead",
};
const NOT_YET: Look = {
	fill: "color-mix(in oklab, var(--color-behind) 45%, var(--color-paper))",
	hatch: "award-not-yet",
	ink: "text-behind",
};

/** By the place among the states: the first is not yet, the last is met. */
export function lookOf(state: number, states: number): Look {
	if (state === 0) return NOT_YET;
	return state === states - 1 ? MET : ON_COURSE;
}

/** The hatches, once for the whole figure. */
export function Hatches() {
	return (
		<svg width="0" height="0" className="absolute" aria-hidden="true">
			<defs>
				<Hatch id="award-course" turn={45} ink="var(--color-ahead)" />
				<Hatch id="award-not-yet" turn={-45} ink="var(--color-paper)" />
			</defs>
		</svg>
	);
}

function Hatch({ id, turn, ink }: { id: string; turn: number; ink: string }) {
	return (
		<pattern
			id={id}
			width="6"
			height="6"
			patternUnits="userSpaceOnUse"
			patternTransform={`rotate(${turn})`}
		>
			<path d="M0 0V6" stroke={ink} strokeWidth="1.500" />
		</pattern>
	);
}

/** A filled box in the look of a state. */
export function Patch({ look }: { look: Look }) {
	return (
		<svg className="absolute inset-0 size-full" aria-hidden="true">
			<rect width="100%" height="100%" fill={look.fill} />
			{look.hatch && <rect width="100%" height="100%" fill={`url(#${look.hatch})`} />}
		</svg>
	);
}

interface StackProps {
	/** Of whom, in words. */
	label: string;
	counts: readonly number[];
	bars: readonly Bar[] | undefined;
	states: readonly string[];
	open: (mark: Open) => void;
	/** There is room for a figure in the wider parts alone. */
	narrow?: boolean;
}

/** Everybody in one bar: met first, then on course, then not yet; each part opens its students. */
export function Stack({ label, counts, bars, states, open, narrow }: StackProps) {
	const total = counts.reduce((sum, one) => sum + one, 0);
	const order = counts.map((_, at) => counts.length - 1 - at);
	return (
		<span className="flex h-6 w-full overflow-hidden rounded-sm">
			{order.map((state) => {
				const n = counts[state] ?? 0;
				if (!n) return null;
				const look = lookOf(state, states.length);
				const words = `${label}: ${n} of ${total} ${states[state]}`;
				const style = { width: `${(100 * n) / total}%` };
				const content = (
					<>
						<Patch look={look} />
						{n / total > (narrow ? 0.22 : 0.09) && <Figure n={n} look={look} />}
					</>
				);
				const mark = bars?.[state]?.opens;
				return mark ? (
					<button
						key={state}
						type="button"
						className="relative hover:brightness-95"
						style={style}
						title={words}
						aria-label={words}
						onClick={() => open(mark)}
					>
						{content}
					</button>
				) : (
					<span key={state} className="relative" style={style} title={words}>
						{content}
					</span>
				);
			})}
		</span>
	);
}

function Figure({ n, look }: { n: number; look: Look }) {
	const around = look.hatch ? "rounded-sm bg-paper px-0.5" : "";
	return (
		<span className="absolute inset-0 flex items-center px-1 text-[12px] font-bold">
			<span className={`${look.ink} ${around}`}>{n}</span>
		</span>
	);
}

export function Legend({ states }: { states: readonly string[] }) {
	return (
		<ul className="mt-1.5 flex flex-wrap gap-x-4 gap-y-1 text-xs" aria-label="What the bars say">
			{states
				.map((_, at) => states.length - 1 - at)
				.map((state) => (
					<li key={state} className="flex items-center gap-1.5">
						<span className="relative size-3.5">
							<Patch look={lookOf(state, states.length)} />
						</span>
						{states[state]}
					</li>
				))}
		</ul>
	);
}

interface ReachProps {
	banked: number;
	with_estimates: number;
	/** None: nothing is needed of it by itself. */
	needed: number | null;
	most: number;
	unit: string;
}

/** Banked, then what is estimated, against the line of what is needed. */
export function Reach({ banked, with_estimates, needed, most, unit }: ReachProps) {
	const part = (value: number) => `${(100 * value) / most}%`;
	const words = `${figure(banked)} banked, ${figure(with_estimates)} with estimates${needed === null ? "" : `, of ${figure(needed)}`} ${unit}`;
	return (
		<span className="relative block h-4" role="img" aria-label={words} title={words}>
			<span className="absolute inset-y-0 left-0" style={{ width: part(with_estimates) }}>
				<Patch look={lookOf(1, 3)} />
			</span>
			<span className="absolute inset-y-0 left-0" style={{ width: part(banked) }}>
				<Patch look={lookOf(2, 3)} />
			</span>
			{needed !== null && (
				<span className="absolute -inset-y-0.5 w-0.5 bg-ink" style={{ left: part(needed) }} />
			)}
		</span>
	);
}

/** A state as a small box. */
export function Chip({ state, states }: { state: number; states: readonly string[] }) {
	return (
		<span
			className="relative inline-block size-3.5"
			role="img"
			aria-label={states[state]}
			title={states[state]}
		>
			<Patch look={lookOf(state, states.length)} />
		</span>
	);
}

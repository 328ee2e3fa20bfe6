import { type FormEvent, useState } from "react";
import type { Catalogue, Condition, Question } from "../../api/client";
import { PickList } from "../../ui/PickList";
import { Popover } from "../../ui/Popover";
import { measureOf, type Sitting, sittingOf, type What } from "../model/question";

interface Props {
	catalogue: Catalogue;
	question: Question;
	word: string;
	add: (condition: Condition) => void;
	/** The distance from where they started instead of the score itself. */
	span?: boolean;
}

type Way = "range" | "level" | "boundary" | "form";

/** Students by their result: the unit is always spelt out, so that marks and scaled scores cannot
 * be mixed up. */
export function MeasureCondition({ catalogue, question, word, add, span = false }: Props) {
	const first = sittingOf(question, catalogue) ?? catalogue.measures[0];
	const [key, setKey] = useState(first?.key ?? "");
	const sitting = catalogue.measures.find((one) => one.key === key) ?? first;
	const figures = sitting?.scores.filter((one) => !["level", "grade"].includes(one.score)) ?? [];
	const [score, setScore] = useState("");
	const unit = figures.find((one) => one.score === score) ?? figures[0];
	const [way, setWay] = useState<Way>(span || figures.length ? "range" : "level");
	const [low, setLow] = useState("");
	const [high, setHigh] = useState("");
	const [names, setNames] = useState<string[]>([]);
	const [within, setWithin] = useState("3");
	const [below, setBelow] = useState(span);
	if (!sitting) return <p className="text-muted">There are no results yet.</p>;
	const measure = measureOf(sitting, way === "range" && unit ? { score: unit.score } : {});

	function made(held: Sitting): Condition | null {
		const bounds = { ...number("from", low), ...number("to", high) };
		if (span && below) Object.assign(bounds, { status: ["below"] });
		if (span) {
			const of: What = { derive: "span", of: measureOf(held), against: { prior: {} } };
			return Object.keys(bounds).length ? { measure: of, ...bounds } : null;
		}
		if (way === "range") return Object.keys(bounds).length ? { measure, ...bounds } : null;
		if (way === "level") return names.length ? { measure, level: names } : null;
		if (way === "form") return names[0] ? { measure, form: names[0] } : null;
		const boundary = names[0];
		if (!boundary || !(Number(within) > 0)) return null;
		return { measure, boundary, within: Number(within), side: "below" };
	}
	function submit(event: FormEvent): void {
		event.preventDefault();
		const condition = sitting ? made(sitting) : null;
		if (condition) add(condition);
	}
	const ways: [Way, string, boolean][] = [
		["range", "between two scores", figures.length > 0],
		["level", "by level or grade", sitting.steps.length > 0],
		["boundary", "just below a boundary", sitting.cuts.length > 0],
		["form", "by form", sitting.forms.length > 0],
	];
	const options = { range: [], level: sitting.steps, boundary: sitting.cuts, form: sitting.forms };
	return (
		<form onSubmit={submit} className="space-y-2">
			<Tests
				{...{ catalogue, span, sitting }}
				choose={(chosen) => {
					setKey(chosen);
					setNames([]);
				}}
			/>
			{!span && (
				<select
					className="select select-sm w-full"
					aria-label="How"
					value={way}
					onChange={(event) => {
						setWay(event.target.value as Way);
						setNames([]);
					}}
				>
					{ways
						.filter(([, , there]) => there)
						.map(([value, words]) => (
							<option key={value} value={value}>
								{words}
							</option>
						))}
				</select>
			)}
			{way === "range" && !span && figures.length > 1 && (
				<select
					className="select select-sm w-full"
					aria-label="Score in"
					value={unit?.score}
					onChange={(event) => setScore(event.target.value)}
				>
					{figures.map((one) => (
						<option key={one.score} value={one.score}>
							{one.label}, in {one.unit}
						</option>
					))}
				</select>
			)}
			{(way === "range" || span) && (
				<Bounds
					{...{ low, high, setLow, setHigh, below, setBelow }}
					unit={unit?.unit ?? ""}
					span={span}
				/>
			)}
			{way !== "range" && !span && (
				<Names options={options[way]} several={way === "level"} names={names} setNames={setNames} />
			)}
			{way === "boundary" && (
				<label className="flex items-center gap-2">
					at most
					<input
						className="input input-sm w-20"
						inputMode="decimal"
						value={within}
						onChange={(event) => setWithin(event.target.value)}
					/>
					{unit?.unit} below it
				</label>
			)}
			<button type="submit" className="btn btn-primary btn-sm" disabled={!made(sitting)}>
				{word}
			</button>
		</form>
	);
}

function number(key: string, text: string): Record<string, number> {
	const value = Number(text.trim().replace("−", "-").replace(",", "."));
	return text.trim() && Number.isFinite(value) ? { [key]: value } : {};
}

interface BoundsProps {
	low: string;
	high: string;
	setLow: (text: string) => void;
	setHigh: (text: string) => void;
	below: boolean;
	setBelow: (below: boolean) => void;
	unit: string;
	span: boolean;
}

function Bounds(props: BoundsProps) {
	const { low, high, setLow, setHigh, below, setBelow, unit, span } = props;
	const tick = span && (
		<label className="flex w-full items-baseline gap-2">
			<input
				type="checkbox"
				className="relative top-0.5 accent-(--color-ahead)"
				checked={below}
				onChange={() => setBelow(!below)}
			/>
			below expectation, beyond the error of prediction
		</label>
	);
	if (span && below) return <div>{tick}</div>;
	return (
		<div className="flex flex-wrap items-center gap-2">
			<label className="flex items-center gap-1">
				from
				<input
					className="input input-sm w-20"
					inputMode="decimal"
					value={low}
					onChange={(event) => setLow(event.target.value)}
				/>
			</label>
			<label className="flex items-center gap-1">
				to
				<input
					className="input input-sm w-20"
					inputMode="decimal"
					value={high}
					onChange={(event) => setHigh(event.target.value)}
				/>
			</label>
			<span className="text-muted">{span ? `${unit} from expectation` : unit}</span>
			{tick}
		</div>
	);
}

interface TestsProps extends Pick<Props, "catalogue" | "span"> {
	sitting: Sitting;
	choose: (key: string) => void;
}

/** The test that the condition is about, out of however many there are. */
function Tests({ catalogue, span, sitting, choose }: TestsProps) {
	return (
		<Popover
			label={`Test: ${sitting.label}. Change`}
			title="Choose a test"
			width={320}
			className="select select-sm w-full text-left"
			trigger={`${sitting.label} (${sitting.assessment})`}
		>
			{(close) => (
				<PickList
					label="tests"
					focus
					picks={catalogue.measures
						.filter((one) => !span || one.has_prior)
						.map((one) => ({
							key: one.key,
							words: one.label,
							group: one.assessment,
							chosen: one.key === sitting.key,
							pick: () => {
								choose(one.key);
								close();
							},
						}))}
				/>
			)}
		</Popover>
	);
}

interface NamesProps {
	options: string[];
	several: boolean;
	names: string[];
	setNames: (names: string[]) => void;
}

function Names({ options, several, names, setNames }: NamesProps) {
	return (
		<div className="max-h-40 overflow-auto">
			{options.map((name) => (
				<label key={name} className="flex items-baseline gap-2 px-1 py-0.5 hover:bg-amber-wash">
					<input
						type={several ? "checkbox" : "radio"}
						name="step"
						className="relative top-0.5 accent-(--color-ahead)"
						checked={names.includes(name)}
						onChange={() => {
							if (!several) setNames([name]);
							else
								setNames(
									names.includes(name) ? names.filter((one) => one !== name) : [...names, name],
								);
						}}
					/>
					{name}
				</label>
			))}
		</div>
	);
}

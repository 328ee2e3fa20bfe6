import { type FormEvent, useState } from "react";
import type { Question } from "../../api/client";
import type { LensProps } from "../../question/model/lens";
import { Segments } from "../../ui/Segments";
import { type Body, optionsOf, said, wanting } from "./model";

interface Props {
	body: Body;
	question: Question;
	steps: readonly string[];
	ask: LensProps["ask"];
}

/** Which figure is wanted, how high, and whether few students or few steps are asked for. */
export function Wanted({ body, question, steps, ask }: Props) {
	const options = optionsOf(question);
	const against = Boolean(question.against);
	return (
		<fieldset className="no-print mb-2 flex flex-wrap items-center gap-x-4 gap-y-1.5 text-[13px]">
			<legend className="sr-only">What is wanted</legend>
			<Segments
				label="Figure"
				options={[
					{ key: "share", words: `share at ${body.step} or better` },
					{ key: "mean", words: against ? "distance in steps" : "mean step" },
				]}
				chosen={body.figure}
				choose={(key) =>
					ask(
						wanting(question, {
							figure: key === "mean" ? "mean" : "share",
							wanted: undefined,
						}),
					)
				}
			/>
			{body.figure === "share" && (
				<label className="flex items-center gap-1.5">
					at
					<select
						className="select select-xs w-auto"
						value={body.step}
						onChange={(event) => ask(wanting(question, { at: event.target.value }))}
					>
						{steps.slice(1).map((step) => (
							<option key={step}>{step}</option>
						))}
					</select>
				</label>
			)}
			<HowHigh {...{ body, question, ask, against }} />
			<Segments
				label="How many steps each"
				options={[
					{ key: "one", words: "one step each" },
					{ key: "any", words: "as many as it takes" },
				]}
				chosen={options.each ?? "one"}
				choose={(key) => ask(wanting(question, { each: key === "any" ? "any" : "one" }))}
			/>
			{options.each === "any" && (
				<Segments
					label="Fewest"
					options={[
						{ key: "students", words: "fewest students" },
						{ key: "steps", words: "fewest steps in all" },
					]}
					chosen={options.fewest ?? "students"}
					choose={(key) =>
						ask(wanting(question, { fewest: key === "steps" ? "steps" : "students" }))
					}
				/>
			)}
		</fieldset>
	);
}

/** Level with the yardstick, as everyone, or a figure of one's own. */
function HowHigh({ body, question, ask, against }: Omit<Props, "steps"> & { against: boolean }) {
	const { wanted } = optionsOf(question);
	const share = body.figure === "share";
	const [text, setText] = useState(typeof wanted === "number" ? shown(wanted, share) : "");
	function submit(event: FormEvent): void {
		event.preventDefault();
		const value = Number(text.replace(",", ".").replace("%", ""));
		if (text.trim() && Number.isFinite(value))
			ask(wanting(question, { wanted: share ? value / 100 : value }));
	}
	const level = against && !share;
	return (
		<form onSubmit={submit} className="flex items-center gap-1.5">
			<span className="font-semibold">Wanted</span>
			{level && (
				<Choice
					chosen={wanted === undefined || wanted === "yardstick"}
					choose={() => ask(wanting(question, { wanted: "yardstick" }))}
				>
					level
				</Choice>
			)}
			<Choice
				chosen={wanted === "everyone" || (wanted === undefined && !level)}
				choose={() => ask(wanting(question, { wanted: "everyone" }))}
			>
				as everyone
			</Choice>
			<input
				className="input input-xs w-16"
				aria-label={share ? "Wanted share in percent" : "Wanted figure in steps"}
				placeholder={share ? "%" : said(body, body.now)}
				value={text}
				onChange={(event) => setText(event.target.value)}
			/>
			<button type="submit" className="btn btn-outline btn-xs">
				Set
			</button>
		</form>
	);
}

function shown(wanted: number, share: boolean): string {
	return String(share ? Math.round(wanted * 1000) / 10 : wanted);
}

interface ChoiceProps {
	chosen: boolean;
	choose: () => void;
	children: string;
}

function Choice({ chosen, choose, children }: ChoiceProps) {
	return (
		<button
			type="button"
			aria-pressed={chosen}
			onClick={choose}
			className={`rounded border px-1.5 py-0.5 ${chosen ? "border-ink font-semibold" : "border-line text-muted hover:border-ink"}`}
		>
			{children}
		</button>
	);
}

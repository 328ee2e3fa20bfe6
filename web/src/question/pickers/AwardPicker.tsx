import { Tick } from "../../ui/Choice";
import { type AwardOption, awardIn, awardOf, firstAward, sameAward } from "../model/awards";
import type { PickerProps } from "./picker";

const MOST = 4;

/** Which awards, up to four side by side; every school year with records is a heading. */
export function AwardPicker({ question, catalogue, ask }: PickerProps) {
	const awards = catalogue.awards ?? [];
	const years = [...new Set(awards.map((one) => one.school_year))];
	const chosen = question.what.map(awardOf);
	const held = (option: AwardOption) => chosen.some((award) => sameAward(award, option));
	const change = (option: AwardOption) => {
		const records = firstAward(question)?.counting;
		const others = question.what.filter((one) => !sameAward(awardOf(one), option));
		const what = held(option) ? others : [...question.what, awardIn(option, records)];
		if (what.length && what.length <= MOST) ask({ ...question, what, options: {}, sort: [] });
	};
	const only = (option: AwardOption) =>
		ask({
			...question,
			what: [awardIn(option, firstAward(question)?.counting)],
			options: {},
			sort: [],
		});
	return (
		<div className="max-h-[420px] overflow-auto">
			{years.map((year) => (
				<fieldset key={year} className="mb-2">
					<legend className="px-1 pt-1 pb-0.5 text-xs font-semibold text-muted">{year}</legend>
					{awards
						.filter((one) => one.school_year === year)
						.map((one) => (
							<div key={one.name} className="flex items-baseline gap-2">
								<div className="flex-1">
									<Tick checked={held(one)} words={one.name} change={() => change(one)} />
								</div>
								<button
									type="button"
									className="px-1 text-xs text-ahead hover:underline"
									onClick={() => only(one)}
								>
									only
									<span className="sr-only">
										{" "}
										{one.name}, {year}
									</span>
								</button>
							</div>
						))}
				</fieldset>
			))}
			<p className="px-1 text-xs text-muted">Up to four stand side by side.</p>
		</div>
	);
}

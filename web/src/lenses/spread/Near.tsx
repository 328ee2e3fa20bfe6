import { useState } from "react";
import type { Open, Question, Schemas } from "../../api/client";
import { count } from "../../lib/numbers";

interface Props {
	body: Schemas["SpreadBody"];
	question: Question;
	ask: (question: Question) => void;
	open: (mark: Open) => void;
}

/** Who stands so near a boundary that another sitting could have put them on its other side. */
export function Near({ body, question, ask, open }: Props) {
	const { near } = body;
	const [typed, setTyped] = useState<string>();
	if (!near || near.boundaries.length === 0) return null;
	const within = typed ?? String(near.within);
	const said = Number(within);
	return (
		<section aria-label="Near a boundary" className="mt-2 border-t border-line pt-1.5 text-[13px]">
			<form
				className="flex flex-wrap items-center gap-2"
				onSubmit={(event) => {
					event.preventDefault();
					if (said > 0) ask({ ...question, options: { ...question.options, within: said } });
				}}
			>
				<h3 className="font-semibold">Within</h3>
				<input
					className="input input-xs w-16"
					inputMode="decimal"
					aria-label={`How near, in ${body.unit}`}
					value={within}
					onChange={(event) => setTyped(event.target.value)}
					onBlur={() =>
						said > 0 &&
						said !== near.within &&
						ask({ ...question, options: { ...question.options, within: said } })
					}
				/>
				<span>
					{body.unit} of a boundary <span className="text-muted">({near.because})</span>
				</span>
			</form>
			<ul className="flex flex-wrap gap-x-6">
				{near.boundaries.map((one) => (
					<li key={one.label}>
						<b>{one.label}</b>: <Who mark={one.below} words="just short" open={open} />
						{", "}
						<Who mark={one.above} words="on it or just above" open={open} />
					</li>
				))}
			</ul>
		</section>
	);
}

function Who({ mark, words, open }: { mark: Schemas["Mark"]; words: string; open: Props["open"] }) {
	const { opens } = mark;
	const told = `${count(mark.n, "student")} ${words}`;
	if (!opens) return <span className="text-muted">{told}</span>;
	return (
		<button type="button" className="text-ahead hover:underline" onClick={() => open(opens)}>
			{told}
		</button>
	);
}

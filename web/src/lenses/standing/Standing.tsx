import { useCatalogue } from "../../api/catalogue";
import type { Question, Schemas } from "../../api/client";
import type { LensProps } from "../../question/model/lens";
import { sittingOf } from "../../question/model/question";
import { Tick } from "../../ui/Choice";
import { AroundTheLine } from "../levels/Levels";
import { StepNumbers } from "../levels/Numbers";

type Body = Schemas["StandingBody"];

/** How many stand below, on and above what they are held against; of several targets a bar each. */
export function Standing({ answer, question, ask, open }: LensProps) {
	const body = answer.body;
	if (body.show !== "standing") return null;
	return (
		<>
			<Targets {...{ question, ask }} />
			<AroundTheLine body={body} {...{ open }} label={answer.sentence} />
		</>
	);
}

/** Its figures. */
export function Numbers(props: LensProps) {
	const body = props.answer.body;
	if (body.show !== "standing") return null;
	const { dimension, steps, rows, reference }: Body = body;
	return <StepNumbers {...props} body={{ dimension, steps, rows, reference }} />;
}

interface TargetsProps {
	question: Question;
	ask: LensProps["ask"];
}

/** Other kinds of target to stand beside the one that is asked for. */
function Targets({ question, ask }: TargetsProps) {
	const catalogue = useCatalogue();
	const against = question.against;
	if (!catalogue.data || !against || !("target" in against)) return null;
	const kinds = (sittingOf(question, catalogue.data)?.claims ?? [])
		.filter((one) => one.role === "target" && one.kind && one.kind !== against.target.kind)
		.map((one) => one.kind ?? "");
	if (!kinds.length) return null;
	const also = alsoOf(question);
	return (
		<fieldset className="no-print mb-2 flex items-center gap-3 text-[13px]">
			<legend className="float-left mr-3 font-semibold">Beside it</legend>
			{kinds.map((kind) => (
				<Tick
					key={kind}
					checked={also.includes(kind)}
					words={`the ${kind} target`}
					change={() =>
						ask({
							...question,
							options: {
								also: also.includes(kind) ? also.filter((one) => one !== kind) : [...also, kind],
							},
						})
					}
				/>
			))}
		</fieldset>
	);
}

/** The kinds that the question already asks for. */
function alsoOf(question: Question): string[] {
	const also = question.options?.also;
	return Array.isArray(also) ? also.filter((one) => typeof one === "string") : [];
}

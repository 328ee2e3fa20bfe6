import type { Question, Schemas } from "../../api/client";
import { Segments } from "../../ui/Segments";

type Body = Schemas["ItemsBody"];

const NAMES: Record<string, string> = {
	question: "Questions",
	strand: "Strands",
	topic: "Topics",
	objective: "Objectives",
	skill: "Skills",
	type: "Types",
};

const ORDERS = [
	{ key: "difference", words: "furthest behind first" },
	{ key: "paper", words: "as the paper has them" },
] as const;

interface Props {
	body: Body;
	question: Question;
	ask: (question: Question) => void;
}

/** By what the test is looked into, and in which order. */
export function Controls({ body, question, ask }: Props) {
	const put = (change: object) =>
		ask({ ...question, options: { by: body.by, order: body.order, ...change } });
	const ways = (["question", ...body.kinds] as const).map((key) => ({
		key,
		words: NAMES[key] ?? key,
	}));
	return (
		<div className="no-print flex flex-wrap gap-x-6">
			<Segments label="Rows" options={ways} chosen={body.by} choose={(by) => put({ by })} />
			<Segments
				label="Order"
				options={ORDERS}
				chosen={body.order}
				choose={(order) => put({ order })}
			/>
		</div>
	);
}

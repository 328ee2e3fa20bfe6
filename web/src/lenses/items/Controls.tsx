import type { Answer, Open, Question, Schemas } from "../../api/client";
import { plainOf } from "../../question/model/question";
import { Segments } from "../../ui/Segments";
import { Attached, Attaching } from "./Attached";
import { Pairing } from "./Pairing";

type Body = Schemas["ItemsBody"];

const NAMES: Record<string, string> = {
	question: "Questions",
	paper: "Papers",
	section: "Sections",
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
	answer: Answer;
	body: Body;
	/** The place of the group in front. */
	front: number;
	question: Question;
	ask: (question: Question) => void;
	open: (mark: Open) => void;
}

/** The students of the group in front, best first, by the rows of the test. */
function Grid({ body, front, question, open }: Omit<Props, "ask" | "answer">) {
	const group = body.groups[front];
	const whole = plainOf(question.what[0]);
	if (!group?.opens || whole.assessment === undefined) return null;
	const total = { ...whole, assessment: whole.assessment, score: "raw" } as const;
	const of = (is: string) => ({ measure: { ...total, part: { kind: body.by, is } } });
	// The best first, and the easiest question: what lies apart from its neighbours is seen.
	const easiest = [...body.rows].sort(
		(a, b) => (b.shares[front]?.share ?? -1) - (a.shares[front]?.share ?? -1),
	);
	const rows = body.order === "paper" ? [of("each")] : easiest.map((row) => of(row.label));
	const mark = {
		...group.opens,
		columns: [{ measure: total }, ...rows],
		sort: [{ by: "#1", dir: "desc" as const }],
	};
	return (
		<button
			type="button"
			className="no-print mb-1 text-[13px] font-semibold text-ahead hover:underline"
			onClick={() => open(mark)}
		>
			{group.label}: students by {body.by}
		</button>
	);
}

/** By what the test is looked into, and in which order. */
export function Controls({ answer, body, front, question, ask, open }: Props) {
	const put = (change: object) =>
		ask({
			...question,
			options: {
				by: body.by,
				order: body.order,
				...(body.only ? { only: body.only } : {}),
				...change,
			},
		});
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
			{body.only && (
				<button
					type="button"
					className="mb-1 text-[13px] font-semibold text-ahead hover:underline"
					onClick={() => put({ only: undefined })}
				>
					{body.only} alone ✕<span className="sr-only"> show all questions</span>
				</button>
			)}
			<Grid {...{ body, front, question, open }} />
			<Attached answer={answer} form={body.form} />
			<Attaching answer={answer} />
			<Pairing answer={answer} />
		</div>
	);
}

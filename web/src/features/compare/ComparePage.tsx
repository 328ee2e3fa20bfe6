import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import {
	type Answer,
	type Catalogue,
	client,
	type Open,
	type Question,
	unwrap,
} from "../../api/client";
import type { CompareSearch } from "../../app/router";
import { useSession } from "../../app/session";
import { HowSure } from "../../charts/HowSure";
import { Levels } from "../../charts/Levels";
import { MakeUp } from "../../charts/MakeUp";
import { OverTime } from "../../charts/OverTime";
import { Spans } from "../../charts/Spans";
import { Spread } from "../../charts/Spread";
import { StartToNow } from "../../charts/StartToNow";
import { useKeys } from "../../lib/keys";
import { Instead, Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Conditions } from "./Conditions";
import { Drawer } from "./Drawer";
import { FirstTime } from "./FirstTime";
import { KeyHelp } from "./KeyHelp";
import { LENSES, Lenses } from "./Lenses";
import { NumbersTable } from "./NumbersTable";
import {
	firstQuestion,
	groupSplits,
	inLens,
	opened,
	type Show,
	splitKey,
	splitsOf,
	stripOf,
	whyNot,
	withSplits,
} from "./question";
import { Reading } from "./Reading";
import { Sentence } from "./Sentence";
import { Strip } from "./Strip";
import { Table } from "./Table";

export function ComparePage() {
	const catalogue = useQuery({
		queryKey: ["catalogue"],
		queryFn: () => unwrap(client.GET("/api/catalogue")),
	});
	if (catalogue.isError)
		return (
			<div className="p-6">
				<Trouble error={catalogue.error} />
			</div>
		);
	if (!catalogue.data) return <Waiting what="Looking up what can be asked" />;
	const first = firstQuestion(catalogue.data);
	if (!first) return <Nothing catalogue={catalogue.data} />;
	return <Comparison catalogue={catalogue.data} first={first} />;
}

/** Empty Compare says what is missing and where to bring it in. */
function Nothing({ catalogue }: { catalogue: Catalogue }) {
	const session = useSession();
	const roster = catalogue.schools.length > 0;
	return (
		<div className="mx-auto max-w-xl p-10">
			<h1 className="mb-2 text-xl font-bold">
				{roster ? "There are no results yet" : "Nothing has been kept yet"}
			</h1>
			<p className="mb-4 text-muted">
				{roster
					? "The roster is here. Bring in a results file, and every school, class and group can be compared."
					: "Bring in a roster first: it says who is in which school. Then a results file."}
			</p>
			{session.data?.may.includes("intake") ? (
				<Link to="/intake" className="btn btn-primary">
					Go to Intake
				</Link>
			) : (
				<p>The district's data lead brings files in.</p>
			)}
		</div>
	);
}

interface ComparisonProps {
	catalogue: Catalogue;
	/** What is asked where the address says nothing. */
	first: Question;
}

function Comparison({ catalogue, first }: ComparisonProps) {
	const search = useSearch({ from: "/compare" });
	const navigate = useNavigate({ from: "/compare" });
	const question = search.q ?? first;
	const [detail, setDetail] = useState(false);
	const [numbers, setNumbers] = useState(false);
	const [help, setHelp] = useState(false);
	const [walking, setWalking] = useState(false);

	useEffect(() => {
		if (!search.q) navigate({ search: { q: question }, replace: true });
	}, [search.q, question, navigate]);

	const go = (change: Partial<CompareSearch>) =>
		navigate({ search: (before: CompareSearch) => ({ ...before, ...change }) });
	const ask = (next: Question) => go({ q: next, open: undefined, order: undefined });
	const open = (mark: Open) => go({ open: mark, order: undefined });
	const { found, around } = useAnswers(question);
	const show = question.show ?? "spans";
	const lens = (next: Show) => {
		if (!whyNot(next, question, catalogue)) ask(inLens(question, next, catalogue));
	};
	function turn(by: number): void {
		const all = splitsOf(catalogue);
		const now = all.findIndex((item) => item.key === splitKey(groupSplits(question)[0]));
		const next = all[(now + by + all.length) % all.length];
		if (next) ask(withSplits(question, [next.dimension]));
	}
	useKeys({
		...Object.fromEntries(LENSES.map((item, at) => [String(at + 1), () => lens(item.key)])),
		q: () => document.querySelector<HTMLElement>("#sentence button")?.focus(),
		t: () =>
			show === "spans" || show === "table"
				? lens(show === "table" ? "spans" : "table")
				: setNumbers(!numbers),
		d: () => setDetail(!detail),
		"[": () => turn(-1),
		"]": () => turn(1),
		"?": () => setHelp(!help),
		escape: () =>
			help ? setHelp(false) : search.open && go({ open: undefined, order: undefined }),
	});

	const answer = found.data;
	return (
		<div className="print-flow relative flex h-full flex-col">
			<section aria-label="Question" className="shrink-0 border-b border-line px-5 pt-2.5 pb-2.5">
				<Sentence {...{ question, catalogue, ask }} slots={answer?.slots} />
				<Conditions {...{ answer, question, catalogue, ask, open }} />
			</section>
			{found.isError ? (
				<div className="p-6">
					<Trouble error={found.error} />
					<Instead error={found.error} ask={(to) => ask({ ...question, ...to })} />
					<button type="button" className="btn btn-sm mt-3 mr-2" onClick={() => history.back()}>
						Back to the last question
					</button>
					<Link to="/compare" search={{}} className="btn btn-sm mt-3">
						Start from the first question
					</Link>
				</div>
			) : (
				<div className="print-flow grid min-h-0 flex-1 grid-cols-[214px_1fr_290px] max-[1100px]:grid-cols-[180px_1fr_240px]">
					<Strip
						{...{ question, catalogue }}
						answer={around}
						choose={(dimension) => ask(withSplits(question, [dimension]))}
					/>
					<section
						aria-label="Answer"
						aria-busy={found.isFetching}
						className="print-flow flex min-w-0 flex-col overflow-auto px-4 py-2.5"
					>
						<FirstTime again={walking} done={() => setWalking(false)} />
						<Lenses {...{ question, catalogue, ask, numbers, setNumbers }} choose={lens} />
						{answer ? (
							<Body {...{ answer, question, numbers, ask, open }} />
						) : (
							<Waiting what="Working it out" />
						)}
					</section>
					{answer ? <Reading {...{ answer, question, ask, open, detail, setDetail }} /> : <div />}
				</div>
			)}
			{search.open && answer && (
				<Drawer
					question={opened(question, search.open, search.order)}
					narrow={ask}
					order={search.order}
					setOrder={(order) => go({ order })}
					close={() => go({ open: undefined, order: undefined })}
				/>
			)}
			{help && (
				<KeyHelp
					close={() => setHelp(false)}
					walk={() => {
						setHelp(false);
						setWalking(true);
					}}
				/>
			)}
		</div>
	);
}

/** The answer, and the split strip around it. */
function useAnswers(question: Question) {
	const found = useQuery({
		queryKey: ["answer", question],
		queryFn: () => unwrap(client.POST("/api/answers", { body: question })),
		placeholderData: keepPreviousData,
	});
	// The strip is of one measure: the first that the question came to.
	const first = found.isPlaceholderData ? undefined : found.data?.question.what[0];
	const around = useQuery({
		queryKey: ["strip", question, first],
		queryFn: () => unwrap(client.POST("/api/answers", { body: stripOf(question, first) })),
		placeholderData: keepPreviousData,
		enabled: first !== undefined,
	});
	return { found, around: around.data };
}

interface BodyProps {
	answer: Answer;
	question: Question;
	numbers: boolean;
	ask: (question: Question) => void;
	open: (mark: Open) => void;
}

/** The answer in its lens; an answer to the question before stays until the next is here. */
function Body({ answer, question, numbers, ask, open }: BodyProps) {
	const show = answer.body.show;
	if (show === "table") return <Table {...{ answer, question, ask, open }} />;
	if (show === "spans")
		return <Spans {...{ answer, open }} against={Boolean(answer.question.against)} />;
	if (show === "sure") return <HowSure {...{ answer, open }} />;
	if (show === "make_up") return <MakeUp {...{ answer, open }} />;
	if (numbers) return <NumbersTable answer={answer} />;
	if (show === "levels") return <Levels {...{ answer, open }} />;
	if (show === "spread") return <Spread {...{ answer, open }} />;
	if (show === "start_to_now") return <StartToNow {...{ answer, open }} />;
	if (show === "over_time") return <OverTime {...{ answer, open }} />;
	return null;
}

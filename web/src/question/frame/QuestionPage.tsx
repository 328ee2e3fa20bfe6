import { Suspense, useEffect, useState } from "react";
import { useCatalogue } from "../../api/catalogue";
import type { Catalogue, Open, Question } from "../../api/client";
import { later, loadTheRest } from "../../lib/later";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { FirstTime } from "../help/FirstTime";
import type { Asked, Look } from "../model/address";
import { type Lens, type LensProps, whyNot } from "../model/lens";
import { inLens, opened } from "../model/question";
import { withSplits } from "../model/splits";
import { Reading } from "../reading/Reading";
import { Conditions } from "../sentence/Conditions";
import { Sentence } from "../sentence/Sentence";
import { Strip } from "../strip/Strip";
import { Failed } from "./Failed";
import { LensBar } from "./LensBar";
import type { Go, Place } from "./place";
import { UnderWay } from "./UnderWay";
import { useAnswers } from "./useAnswers";
import { usePlaceKeys } from "./usePlaceKeys";

const Drawer = later(async () => (await import("../drawer/Drawer")).Drawer);
const KeyHelp = later(async () => (await import("../help/KeyHelp")).KeyHelp);

interface Props {
	place: Place;
	/** What the address says. */
	asked: Asked;
	go: Go;
}

/** A place that asks in one sentence: its question, the answer in a lens, what it says. */
export function QuestionPage({ place, asked, go }: Props) {
	const catalogue = useCatalogue();
	if (catalogue.isError)
		return (
			<div className="p-6">
				<Trouble error={catalogue.error} />
			</div>
		);
	if (!catalogue.data) return <Waiting what="Looking up what can be asked" />;
	const question = asked.q ?? place.first(catalogue.data);
	if (!question) return <place.Nothing catalogue={catalogue.data} />;
	return <Asking {...{ place, asked, go, question }} catalogue={catalogue.data} />;
}

interface AskingProps extends Props {
	catalogue: Catalogue;
	question: Question;
}

function Asking({ place, asked, go, question, catalogue }: AskingProps) {
	const [help, setHelp] = useState(false);
	const [walking, setWalking] = useState(false);
	const [loading, setLoading] = useState(false);
	useEffect(() => {
		if (!asked.q) go({ q: question }, { replace: true });
	}, [asked.q, question, go]);
	const look = asked.look ?? {};
	const setLook = (change: Partial<Look>) =>
		go({ look: { ...look, ...change } }, { replace: true });
	const shut = () => go({ open: undefined, order: undefined });
	const ask = (next: Question) => {
		const same = (next.show ?? "spans") === (question.show ?? "spans");
		go({ q: next, open: undefined, order: undefined, look: same ? asked.look : undefined });
	};
	const show = question.show ?? "spans";
	const now = [...place.lenses, ...place.others].find((lens) => lens.show === show);
	const choose = (lens: Lens) => {
		if (!whyNot(lens, question, catalogue)) ask(inLens(question, lens.show, catalogue));
	};
	const { found, around, shown } = useAnswers(question);
	// A mark opens what it counts: it belongs to the answer in view, whatever was asked since.
	const open = (mark: Open) => go({ q: shown, open: mark, order: undefined });
	const answer = found.data;
	const settled = found.isSuccess;
	useEffect(() => {
		if (settled) void loadTheRest();
	}, [settled]);
	const keys = { place, question, catalogue, ask, choose, now };
	const numbers = () => setLook({ numbers: !look.numbers });
	usePlaceKeys(keys, {
		numbers,
		detail: () => go({ detail: !asked.detail || undefined }, { replace: true }),
		help: () => setHelp(!help),
		close: () => (help ? setHelp(false) : asked.open && shut()),
	});
	return (
		<div className="place-that-asks print-flow relative flex h-full flex-col">
			<section aria-label="Question" className="shrink-0 border-b border-line px-5 pt-2.5 pb-2.5">
				<Sentence
					{...{ question, catalogue, ask }}
					pieces={place.sentence(question)}
					slots={answer?.slots}
				/>
				<Conditions {...{ answer, catalogue, ask, open }} question={shown} />
			</section>
			{found.isError ? (
				<Failed
					error={found.error}
					ask={(to) => ask({ ...question, ...to })}
					again={found.refetch}
				/>
			) : (
				<div className="question-grid print-flow grid min-h-0 flex-1">
					<Strip
						question={question}
						answer={around}
						choose={(dimension) => ask(withSplits(question, [dimension]))}
						largest={asked.strip === "size"}
						setLargest={(largest) => go({ strip: largest ? "size" : undefined }, { replace: true })}
					/>
					<section
						aria-label="Answer"
						aria-busy={found.isFetching || loading}
						className="print-flow flex min-w-0 flex-col overflow-auto px-4 py-2.5"
					>
						<FirstTime again={walking} done={() => setWalking(false)} />
						<LensBar
							{...{ question, catalogue, ask, choose, now }}
							lenses={place.lenses}
							numbers={look.numbers ?? false}
							setNumbers={numbers}
						/>
						<UnderWay {...{ found, question, now, setLoading }}>
							{answer && <Body {...{ place, answer, look, setLook, ask, open }} question={shown} />}
						</UnderWay>
					</section>
					{answer ? (
						<Reading
							{...{ answer, ask, open }}
							question={shown}
							detail={asked.detail ?? false}
							setDetail={(detail) => go({ detail: detail || undefined }, { replace: true })}
						/>
					) : (
						<div />
					)}
				</div>
			)}
			{asked.open && answer && (
				<Suspense>
					<Drawer
						question={opened(question, asked.open, asked.order)}
						narrow={ask}
						order={asked.order}
						setOrder={(order) => go({ order })}
						close={shut}
					/>
				</Suspense>
			)}
			{help && (
				<Suspense>
					<KeyHelp open={help} setOpen={setHelp} walk={() => setWalking(true)} />
				</Suspense>
			)}
		</div>
	);
}

interface BodyProps extends LensProps {
	place: Place;
}

/** The answer in its lens; an answer to the question before stays until the next is here. */
function Body({ place, ...shared }: BodyProps) {
	const { answer, look } = shared;
	const lens = [...place.lenses, ...place.others].find((one) => one.show === answer.body.show);
	if (!lens) return null;
	if (look.numbers && lens.Numbers) return <lens.Numbers {...shared} />;
	return <lens.View {...shared} />;
}

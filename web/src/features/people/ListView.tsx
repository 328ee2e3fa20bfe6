import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answerTo } from "../../api/answers";
import { type Catalogue, client, type Question, unwrap } from "../../api/client";
import { count } from "../../lib/numbers";
import { orderedBy } from "../../question/listing/columns";
import { Listing } from "../../question/listing/Listing";
import { Conditions } from "../../question/sentence/Conditions";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { ListActions } from "./ListActions";
import { StudentNote } from "./StudentNote";
import type { KeptList, useChange } from "./useLists";

interface Props {
	list: KeptList | undefined;
	question: Question;
	catalogue: Catalogue;
	ask: (question: Question) => void;
	change: ReturnType<typeof useChange>;
	busy: boolean;
}

const WHOLE = { size: 20_000, after: 0 };

/** A list as a table: who, in which order, with which columns; every figure from the server. */
export function ListView({ list, question, catalogue, ask, change, busy }: Props) {
	const whole: Question = { ...question, show: "students", page: WHOLE };
	const found = useQuery({ ...answerTo(whole), placeholderData: keepPreviousData });
	const [error, setError] = useState<unknown>();
	const seen = useSeen(list, found.isSuccess);
	const answer = found.data;
	const body = answer?.body.show === "students" ? answer.body : undefined;
	const students = answer?.coverage[0]?.population ?? 0;
	const order = (question.sort ?? []).map(({ by, dir = "asc" }) => ({ by, dir }));
	const files = { ...whole, page: { size: 1_000_000, after: 0 } };
	return (
		<section
			aria-label="List"
			aria-busy={found.isFetching || busy}
			className="print-flow flex min-h-0 flex-1 flex-col"
		>
			<header className="flex flex-wrap items-start gap-2 px-4 pt-3">
				<div className="min-w-0 flex-1">
					<Title list={list} rename={(name) => change.mutate({ name })} />
					<p className="text-muted">
						{answer &&
							`${count(students, "student")} · ${answer.slots.who}${order.length ? " · sorted" : ""}`}
						{list?.plan?.aim && ` · ${list.plan.aim}`}
						{!!list?.left_out && ` · ${count(list.left_out, "column")} of it not for your account`}
					</p>
				</div>
				<ListActions {...{ list, question, change, seen }} files={files} fail={setError} />
			</header>
			<div className="px-4">
				<Conditions
					{...{ answer, question, catalogue, ask }}
					open={(mark) =>
						ask({
							...question,
							who: { ...question.who, all: [...(question.who?.all ?? []), ...(mark.add ?? [])] },
						})
					}
				/>
			</div>
			{error !== undefined && <Trouble error={error} />}
			{found.isError && (
				<div className="p-4">
					<Trouble error={found.error} />
				</div>
			)}
			{found.isPending && <Waiting what="Looking them up" />}
			{answer && body && (
				<Listing
					body={body}
					order={order}
					setOrder={(by, more) => ask({ ...question, sort: orderedBy(order, by, more) })}
					total={answer.page?.total ?? 0}
					students={students}
					says={[
						...answer.method.says,
						`Version ${answer.resolved.version} of the record.`,
						...answer.warnings.map((one) => one.text),
					]}
					traced={false}
					list={list?.id}
					note={(student, words) => <StudentNote student={student} words={words} list={list?.id} />}
				/>
			)}
		</section>
	);
}

interface TitleProps {
	list: KeptList | undefined;
	rename: (name: string) => void;
}

function Title({ list, rename }: TitleProps) {
	const [editing, setEditing] = useState(false);
	const [text, setText] = useState(list?.name ?? "");
	if (!list) return <h1 className="text-lg font-bold">Not kept yet</h1>;
	if (!editing)
		return (
			<h1 className="text-lg font-bold">
				{list.name}
				{list.own && (
					<button
						type="button"
						className="no-print ml-2 text-[13px] font-normal text-ahead hover:underline"
						onClick={() => setEditing(true)}
					>
						rename
					</button>
				)}
			</h1>
		);
	return (
		<form
			className="flex items-end gap-2"
			onSubmit={(event) => {
				event.preventDefault();
				if (text.trim()) rename(text);
				setEditing(false);
			}}
		>
			<LabelField label="Name of the list" value={text} save={setText} />
			<button type="submit" className="btn btn-outline btn-sm">
				Rename
			</button>
		</form>
	);
}

/** The version that was seen before this look, and that this look is noted. */
function useSeen(list: KeptList | undefined, ready: boolean): number | undefined {
	const [before] = useState(list?.seen ?? undefined);
	const id = list?.id;
	useEffect(() => {
		if (id === undefined || !ready) return;
		void unwrap(client.POST("/api/lists/{id}/seen", { params: { path: { id } } })).catch(
			() => undefined,
		);
	}, [id, ready]);
	return before;
}

import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { answerTo } from "../../api/answers";
import { type Answer, downloadCsv, downloadWorkbook, type Question } from "../../api/client";
import { count } from "../../lib/numbers";
import { FileButton } from "../../ui/FileButton";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Listing } from "../listing/Listing";
import type { Order } from "../model/question";
import { KeepList } from "./KeepList";
import { SaveGroup } from "./SaveGroup";

interface Props {
	question: Question;
	/** Narrow the whole page to the students shown. */
	narrow: (question: Question) => void;
	order: Order | undefined;
	setOrder: (order: Order) => void;
	close: () => void;
}

/** The students behind a mark, from the right; the chart stays in view. */
export function Drawer({ question, narrow, order, setOrder, close }: Props) {
	const shut = useRef<HTMLButtonElement>(null);
	const [error, setError] = useState<unknown>();
	const [traced, setTraced] = useState(false);
	useEffect(() => shut.current?.focus(), []);
	const found = useQuery({
		...answerTo(question),
		placeholderData: (before) => before,
	});
	const answer = found.data;
	const narrowed = answer?.narrowed;
	return (
		<aside
			aria-label="Students"
			className="slide-in print-flow absolute inset-y-0 right-0 z-20 flex w-[min(660px,62vw)] flex-col border-l border-line bg-paper shadow-xl"
		>
			<div className="flex flex-col gap-2 px-4 pt-3">
				<div>
					<h2 className="text-base font-bold">{answer ? heading(answer) : "Students"}</h2>
					<p className="text-[13px] text-muted">
						{answer &&
							`${answer.chips.map((chip) => chip.text).join(" · ")}${answer.chips.length ? " · " : ""}${answer.slots.what}`}
					</p>
				</div>
				<div className="no-print flex items-center gap-2">
					{narrowed && (
						<button
							type="button"
							className="btn btn-primary btn-sm"
							onClick={() => narrow(narrowed)}
						>
							Narrow to these
						</button>
					)}
					<Popover
						label="Save these students as a group"
						title="Save as a group"
						width={300}
						className="btn btn-outline btn-sm"
						trigger="Group"
					>
						{() => <SaveGroup question={question} />}
					</Popover>
					<Popover
						label="Keep these students as a list"
						title="Keep as a list"
						width={300}
						className="btn btn-outline btn-sm"
						trigger="List"
					>
						{() => <KeepList question={question} />}
					</Popover>
					<button
						type="button"
						className="btn btn-outline btn-sm"
						onClick={() => downloadCsv(everyPage(question)).catch(setError)}
					>
						Export
					</button>
					<FileButton
						words="Workbook"
						bring={(signal) => downloadWorkbook(everyPage(question), signal)}
						fail={setError}
					/>
					<button
						type="button"
						className="btn btn-outline btn-sm"
						aria-pressed={traced}
						onClick={() => setTraced(!traced)}
					>
						{traced ? "Hide origin" : "Show origin"}
					</button>
					<button type="button" className="btn btn-outline btn-sm" onClick={() => window.print()}>
						Print
					</button>
					<button
						ref={shut}
						type="button"
						className="btn btn-ghost btn-sm absolute top-2 right-3 px-2"
						aria-label="Close"
						onClick={close}
					>
						<X size={16} aria-hidden="true" />
					</button>
				</div>
			</div>
			{error !== undefined && <Trouble error={error} />}
			{found.isError && <Trouble error={found.error} />}
			{!answer && !found.isError && <Waiting what="Looking them up" />}
			{answer?.body.show === "students" && (
				<Listing
					body={answer.body}
					order={order ? [order] : []}
					setOrder={setOrder}
					total={answer.page?.total ?? 0}
					students={answer.coverage[0]?.population ?? 0}
					says={answer.method.says}
					traced={traced}
				/>
			)}
		</aside>
	);
}

/** The list whole, for a file. */
function everyPage(question: Question): Question {
	const { open } = question;
	return open ? { ...question, open: { ...open, page: { size: 1_000_000, after: 0 } } } : question;
}

function heading(answer: Answer): string {
	const coverage = answer.coverage[0];
	if (!coverage) return "Students";
	const left = coverage.population - coverage.counted;
	return (
		count(coverage.population, "student") +
		(left && coverage.counted ? `, ${left} not counted` : "")
	);
}

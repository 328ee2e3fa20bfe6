import type { ReactNode } from "react";
import type { Answer, Catalogue, Question } from "../../api/client";
import { Popover } from "../../ui/Popover";
import { MeasurePicker, SplitPicker, YardstickPicker } from "./Pickers";
import { WhoPicker } from "./WhoPicker";

interface Props {
	question: Question;
	slots: Answer["slots"] | undefined;
	catalogue: Catalogue;
	ask: (question: Question) => void;
}

/** The question in one sentence; each bold part is a slot that opens a picker. */
export function Sentence({ question, slots, catalogue, ask }: Props) {
	return (
		<h1 id="sentence" className="text-[20px] leading-9 text-muted">
			How did{" "}
			<Slot name="who" words={slots?.who ?? "…"} width={560}>
				{() => <WhoPicker question={question} catalogue={catalogue} ask={ask} />}
			</Slot>{" "}
			do in{" "}
			<Slot name="what" words={slots?.what ?? "…"}>
				{(close) => <MeasurePicker {...{ question, catalogue, ask, close }} />}
			</Slot>
			, split by{" "}
			<Slot name="split" words={slots?.split ?? "…"} width={240}>
				{(close) => <SplitPicker {...{ question, catalogue, ask, close }} />}
			</Slot>
			, measured against{" "}
			<Slot name="yardstick" words={slots?.against ?? "…"}>
				{(close) => <YardstickPicker {...{ question, catalogue, ask, close }} />}
			</Slot>
			?
		</h1>
	);
}

interface SlotProps {
	name: string;
	words: string;
	width?: number;
	children: (close: () => void) => ReactNode;
}

function Slot({ name, words, width = 320, children }: SlotProps) {
	return (
		<Popover
			label={`${name}: ${words}. Change`}
			title={`Choose ${name}`}
			width={width}
			className="border-b-2 border-amber font-bold text-ink hover:bg-amber-wash"
			trigger={
				<>
					{words}{" "}
					<span aria-hidden="true" className="align-middle text-[10px] text-amber-ink">
						▾
					</span>
				</>
			}
		>
			{children}
		</Popover>
	);
}

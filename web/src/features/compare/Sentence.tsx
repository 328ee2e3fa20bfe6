import type { ReactNode } from "react";
import type { Answer, Catalogue, Question } from "../../api/client";
import { Popover } from "../../ui/Popover";
import { MeasurePicker } from "./MeasurePicker";
import { SplitPicker } from "./SplitPicker";
import { WhoPicker } from "./WhoPicker";
import { YardstickPicker } from "./YardstickPicker";

interface Props {
	question: Question;
	slots: Answer["slots"] | undefined;
	catalogue: Catalogue;
	ask: (question: Question) => void;
}

/** The question in one sentence; each bold part is a slot that opens a picker. */
export function Sentence({ question, slots, catalogue, ask }: Props) {
	const shared = { question, catalogue, ask };
	const said = slots
		? `How did ${slots.who} do in ${slots.what}, split by ${slots.split}, measured against ${slots.against}?`
		: "Compare";
	return (
		<div id="sentence" className="text-[20px] leading-8 text-muted">
			<h1 className="sr-only">{said}</h1>
			How did{" "}
			<Slot name="who" words={slots?.who ?? "…"} width={560}>
				{() => <WhoPicker {...shared} />}
			</Slot>{" "}
			do in{" "}
			<Slot name="what" words={slots?.what ?? "…"} width={620}>
				{(close) => <MeasurePicker {...shared} close={close} />}
			</Slot>
			, split by{" "}
			<Slot name="split" words={slots?.split ?? "…"} width={620}>
				{(close) => <SplitPicker {...shared} close={close} />}
			</Slot>
			, measured against{" "}
			<Slot name="yardstick" words={slots?.against ?? "…"} width={560}>
				{(close) => <YardstickPicker {...shared} close={close} />}
			</Slot>
			?
		</div>
	);
}

interface SlotProps {
	name: string;
	words: string;
	width: number;
	children: (close: () => void) => ReactNode;
}

function Slot({ name, words, width, children }: SlotProps) {
	return (
		<Popover
			label={`${name}: ${words}. Change`}
			title={`Choose ${name}`}
			width={width}
			className="border-b-2 border-amber text-left font-bold text-ink hover:bg-amber-wash"
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

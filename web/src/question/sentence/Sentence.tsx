import type { ComponentType } from "react";
import type { Answer, Catalogue, Question } from "../../api/client";
import { later } from "../../lib/later";
import { Popover } from "../../ui/Popover";
import { firstAward } from "../model/awards";
import type { PickerProps } from "../pickers/picker";

/** What can stand in a place's sentence as a slot, with its picker. */
const SLOTS = {
	who: { width: 560, picker: later(async () => (await import("../pickers/WhoPicker")).WhoPicker) },
	what: {
		width: 620,
		picker: later(async () => (await import("../pickers/MeasurePicker")).MeasurePicker),
	},
	split: {
		width: 660,
		picker: later(async () => (await import("../pickers/SplitPicker")).SplitPicker),
	},
	against: {
		width: 560,
		picker: later(async () => (await import("../pickers/YardstickPicker")).YardstickPicker),
	},
	award: {
		width: 420,
		picker: later(async () => (await import("../pickers/AwardPicker")).AwardPicker),
	},
	counting: {
		width: 380,
		picker: later(async () => (await import("../pickers/CountingPicker")).CountingPicker),
	},
} satisfies Record<string, { width: number; picker: ComponentType<PickerProps> }>;

export type Slot = keyof typeof SLOTS;
/** A place's sentence: words, and slots where something can be chosen. */
export type Piece = string | { slot: Slot };

const CALLED: Record<Slot, string> = {
	who: "who",
	what: "what",
	split: "split",
	against: "yardstick",
	award: "award",
	counting: "records",
};

/** What stands in a slot: as the answer says it, or as the question does. */
function wordsIn(slot: Slot, slots: Answer["slots"], question: Question): string {
	if (slot === "award") return slots.what;
	if (slot === "counting") return firstAward(question)?.counting ?? "banked and estimated";
	return slots[slot];
}

interface Props {
	pieces: readonly Piece[];
	question: Question;
	slots: Answer["slots"] | undefined;
	catalogue: Catalogue;
	ask: (question: Question) => void;
}

/** The question in one sentence; each bold part is a slot that opens a picker. */
export function Sentence({ pieces, slots, ...shared }: Props) {
	const words = (slot: Slot) => (slots ? wordsIn(slot, slots, shared.question) : "…");
	const said = slots
		? pieces.map((one) => (typeof one === "string" ? one : words(one.slot))).join("")
		: "";
	return (
		<div id="sentence" className="text-[20px] leading-8 text-muted">
			<h1 className="sr-only">{said || "A question"}</h1>
			{pieces.map((one) =>
				typeof one === "string" ? (
					one
				) : (
					<SlotButton key={one.slot} slot={one.slot} words={words(one.slot)} {...shared} />
				),
			)}
		</div>
	);
}

interface SlotProps extends Omit<PickerProps, "close"> {
	slot: Slot;
	words: string;
}

function SlotButton({ slot, words, ...shared }: SlotProps) {
	const { width, picker: Picker } = SLOTS[slot];
	return (
		<Popover
			label={`${CALLED[slot]}: ${words}. Change`}
			title={`Choose ${CALLED[slot]}`}
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
			{(close) => <Picker {...shared} close={close} />}
		</Popover>
	);
}

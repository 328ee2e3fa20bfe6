import type { ReactNode } from "react";
import type { Catalogue, Question } from "../../api/client";
import type { Asked } from "../model/address";
import type { Lens } from "../model/lens";
import type { Piece } from "../sentence/Sentence";

/** What makes a place of its own of the one question. */
export interface Place {
	sentence: (question: Question) => readonly Piece[];
	lenses: readonly Lens[];
	/** Lenses that something else than the bar leads to. */
	others: readonly Lens[];
	/** What is asked where the address says nothing; nothing where the data answer nothing. */
	first: (catalogue: Catalogue) => Question | undefined;
	/** What is shown where nothing can be asked. */
	Nothing: (props: { catalogue: Catalogue }) => ReactNode;
}

export type Go = (change: Partial<Asked>, how?: { replace: boolean }) => void;

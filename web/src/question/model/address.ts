import { type Schema, Validator } from "@cfworker/json-schema";
import schemas from "../../api/asked.schema.json";
import { ApiError, type Open, type Question } from "../../api/client";

/** How a lens is looked at; what a lens does not know it leaves alone. */
export interface Look {
	/** The figures instead of the drawing. */
	numbers?: boolean;
	/** Which of its ways a lens draws. */
	view?: string;
	/** The scores that are looked at. */
	scores?: [number, number];
	/** The score at which shares are read off. */
	at?: number;
	/** The row that is pointed at. */
	row?: string;
}

/** All that shapes what a place shows. The address is its only state. */
export interface Asked {
	/** The question, as asked. */
	q?: Question;
	/** The mark whose students the drawer shows. */
	open?: Open;
	/** How the drawer is sorted. */
	order?: { by: string; dir: "asc" | "desc" };
	look?: Look;
	/** Everything that went into the method is shown. */
	detail?: boolean;
	/** The split strip with the largest differences first. */
	strip?: "size";
}

const text = { type: "string" };
const number = { type: "number" };
const flag = { type: "boolean" };

function object(properties: Record<string, object>, required: string[] = []): object {
	return { type: "object", properties, required, additionalProperties: false };
}

const ASKED = {
	...schemas,
	...object({
		q: { $ref: "#/$defs/Question" },
		open: { $ref: "#/$defs/Open" },
		order: object({ by: text, dir: { enum: ["asc", "desc"] } }, ["by", "dir"]),
		look: object({
			numbers: flag,
			view: text,
			scores: { type: "array", prefixItems: [number, number], minItems: 2, maxItems: 2 },
			at: number,
			row: text,
		}),
		detail: flag,
		strip: { enum: ["size"] },
	}),
};

// The types of a JSON file say no more than that its words are texts.
function isSchema(value: object): value is Schema {
	return "$defs" in value && "properties" in value;
}

function validatorOf(schema: object): Validator {
	if (!isSchema(schema))
		throw new Error("asked.schema.json holds no schemas; run ./bridge describe");
	return new Validator(schema, "2020-12");
}

const validator = validatorOf(ASKED);

function isAsked(value: unknown): value is Asked {
	return validator.validate(value).valid;
}

/** An address that cannot be read; `question` is what it asks, for the server to say what is wrong. */
export class UnreadableAddress extends ApiError {
	constructor(readonly question: unknown) {
		super(
			"address",
			"The question in this address cannot be read.",
			"Nothing was changed.",
			"The link may have been cut off on its way: ask for it again, or start from the first question.",
			0,
		);
	}
}

/** What an address says, which anybody may have typed or cut off; refused where it fits nothing. */
export function askedIn(search: Record<string, unknown>): Asked {
	const { q } = search;
	const said = Object.fromEntries(
		Object.entries(search).filter(([, value]) => value !== undefined && value !== null),
	);
	if (isAsked(said)) return said;
	throw new UnreadableAddress(q);
}

import type { Answer, Schemas } from "../../api/client";

export type Body = Schemas["AwardsBody"];
export type Condition = Schemas["AwardCondition"];
export type Row = Schemas["LevelsRow"];

export function statesOf(body: Body): string[] {
	return body.steps.map((step) => step.name);
}

export function isAwards(body: Answer["body"]): body is Body {
	return body.show === "awards";
}

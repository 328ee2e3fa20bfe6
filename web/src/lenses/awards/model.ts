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

/** A mean or share with its interval, as the figures of the place are written. */
export function withInterval(one: Schemas["Reached"], said: (value: number) => string): string {
	return `${said(one.value)} (${said(one.low)} to ${said(one.high)})`;
}

import { expect, test } from "vitest";
import { askedIn, UnreadableAddress } from "./address";

const q = { what: [{ assessment: "Survey" }] };

test("what an address says is taken as it is", () => {
	const asked = { q, order: { by: "name", dir: "asc" }, look: { scores: [1, 2] }, strip: "size" };
	expect(askedIn(asked)).toEqual(asked);
	expect(askedIn({})).toEqual({});
	expect(askedIn({ q: undefined, open: null })).toEqual({});
});

test.each([
	["text", { q: "what" }],
	["a question without what", { q: { split: [] } }],
	["a key that nothing knows", { q: { ...q, colour: "red" } }],
	["a key of the place that nothing knows", { q, colour: "red" }],
	["a split of a kind that is not there", { q: { ...q, split: [{ by: "school" }] } }],
	["an order without a direction", { q, order: { by: "name" } }],
	["scores that are words", { q, look: { scores: ["a", "b"] } }],
	["a student that is no number", { q, open: { students: ["7"] } }],
])("%s is refused", (_, search) => {
	expect(() => askedIn(search)).toThrow(UnreadableAddress);
});

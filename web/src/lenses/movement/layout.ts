import type { Schemas } from "../../api/client";

type Body = Schemas["MovementBody"];
type Flow = Schemas["Flow"];

export const HEIGHT = 264;
const GAP = 8;
export const BLOCK = 16;

/** A level on one side: where its block stands. */
export interface Block {
	level: number;
	name: string;
	n: number;
	passes: boolean;
	y: number;
	height: number;
}

/** A ribbon between two blocks: its outline, and which way it leads. */
export interface Ribbon {
	flow: Flow;
	path: string;
	way: "up" | "same" | "down";
}

export interface MovementLayout {
	then: Block[];
	now: Block[];
	ribbons: Ribbon[];
}

/** Blocks from the highest level down, as tall as they hold students; ribbons leave and enter them
 * in the order of the levels, so that few cross. */
export function movementLayout(body: Body, left: number, right: number): MovementLayout {
	const total = Math.max(
		1,
		body.flows.reduce((sum, flow) => sum + flow.n, 0),
	);
	const scale = (HEIGHT - GAP * (body.now_in.length - 1)) / total;
	const then = blocks(body.then_in, scale);
	const now = blocks(body.now_in, scale);
	const leaves = new Map(then.map((one) => [one.level, one.y]));
	const enters = new Map(now.map((one) => [one.level, one.y]));
	// From the highest level now: each block hands its students out from the top.
	const order = [...body.flows].sort((a, b) => b.now - a.now || b.before - a.before);
	const out = new Map<Flow, number>();
	for (const flow of order) out.set(flow, take(leaves, flow.before, flow.n * scale));
	const inwards = [...body.flows].sort((a, b) => b.before - a.before || b.now - a.now);
	const ribbons = inwards.map((flow): Ribbon => {
		const from = out.get(flow) ?? 0;
		const to = take(enters, flow.now, flow.n * scale);
		return {
			flow,
			path: ribbon(left + BLOCK, right, from, to, flow.n * scale),
			way: flow.now > flow.before ? "up" : flow.now < flow.before ? "down" : "same",
		};
	});
	return { then, now, ribbons };
}

function blocks(levels: Body["now_in"], scale: number): Block[] {
	let y = 0;
	return levels
		.map((one, level) => ({ ...one, level }))
		.reverse()
		.map(({ level, name, n, passes }) => {
			const block = { level, name, n, passes: passes ?? false, y, height: n * scale };
			y += block.height + GAP;
			return block;
		});
}

/** Hands out room at a block, from where the last took it. */
function take(rooms: Map<number, number>, level: number, height: number): number {
	const at = rooms.get(level) ?? 0;
	rooms.set(level, at + height);
	return at;
}

function ribbon(left: number, right: number, from: number, to: number, thick: number): string {
	const middle = (left + right) / 2;
	const top = `M${left} ${round(from)}C${middle} ${round(from)} ${middle} ${round(to)} ${right} ${round(to)}`;
	const low = `V${round(to + thick)}C${middle} ${round(to + thick)} ${middle} ${round(from + thick)} ${left} ${round(from + thick)}Z`;
	return top + low;
}

function round(value: number): number {
	return Math.round(100 * value) / 100;
}

import { type ComponentType, lazy } from "react";

const waiting: (() => Promise<unknown>)[] = [];

/** A component that is loaded when it is first shown, or once the page has nothing else to do. */
export function later<P>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
	waiting.push(load);
	return lazy(async () => ({ default: await load() }));
}

/** Loads what is still to come, one after the other, so that nobody waits for it later. */
export async function loadTheRest(): Promise<void> {
	for (const load of waiting.splice(0)) await load().catch(() => undefined);
}

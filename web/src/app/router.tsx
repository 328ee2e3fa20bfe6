import { createRootRoute, createRoute, createRouter, redirect } from "@tanstack/react-router";
import type { Open, Question } from "../api/client";
import { ComparePage } from "../features/compare/ComparePage";
import { ExactPage } from "../features/exact/ExactPage";
import { GridPage } from "../features/grid/GridPage";
import { DraftPage } from "../features/intake/DraftPage";
import { IntakePage } from "../features/intake/IntakePage";
import { MethodPage } from "../features/methods/MethodPage";
import { ScalePage } from "../features/scale/ScalePage";
import { SetupPage } from "../features/setup/SetupPage";
import { Shell } from "./Shell";
import { openIn, questionIn, Unreadable } from "./Unreadable";

export interface CompareSearch {
	/** The question, as asked. The address is its only state. */
	q?: Question;
	/** The mark whose students the drawer shows. */
	open?: Open;
	/** How the drawer is sorted. */
	order?: { by: string; dir: "asc" | "desc" };
}

const rootRoute = createRootRoute({ component: Shell });
const home = createRoute({
	getParentRoute: () => rootRoute,
	path: "/",
	beforeLoad: () => {
		throw redirect({ to: "/compare", replace: true });
	},
});
const compare = createRoute({
	getParentRoute: () => rootRoute,
	path: "/compare",
	component: ComparePage,
	errorComponent: Unreadable,
	validateSearch: (search: Record<string, unknown>): CompareSearch => ({
		q: questionIn(search.q),
		open: openIn(search.open),
		order: search.order as CompareSearch["order"],
	}),
});
const intake = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake",
	component: IntakePage,
});
const grid = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/grid",
	component: GridPage,
});
const scale = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/scale",
	component: ScalePage,
});
const exact = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/exact",
	component: ExactPage,
});
const draft = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/$draftId",
	component: DraftPage,
	validateSearch: (search: Record<string, unknown>): { step?: "columns" } => ({
		step: search.step === "columns" ? "columns" : undefined,
	}),
});

const setup = createRoute({
	getParentRoute: () => rootRoute,
	path: "/setup",
	component: SetupPage,
});
const method = createRoute({
	getParentRoute: () => rootRoute,
	path: "/methods/$page",
	component: MethodPage,
});

export const router = createRouter({
	defaultErrorComponent: Unreadable,
	routeTree: rootRoute.addChildren([
		home,
		compare,
		intake,
		grid,
		scale,
		exact,
		draft,
		setup,
		method,
	]),
	defaultNotFoundComponent: () => <p className="p-6">There is no such page.</p>,
});

declare module "@tanstack/react-router" {
	interface Register {
		router: typeof router;
	}
}

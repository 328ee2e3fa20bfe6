import {
	createRootRoute,
	createRoute,
	createRouter,
	lazyRouteComponent,
	redirect,
} from "@tanstack/react-router";
import type { Question } from "../api/client";
import { type AskedPublished, askedPublished } from "../features/published/asked";
import { type Asked, askedIn } from "../question/model/address";
import { Waiting } from "../ui/Waiting";
import { Home } from "./Home";
import { Shell } from "./Shell";
import { Unreadable } from "./Unreadable";

/** The list that an address names, if it names one. */
function askedList(search: Record<string, unknown>): { list?: number } {
	const list = Number(search.list);
	return Number.isInteger(list) && list > 0 ? { list } : {};
}

const rootRoute = createRootRoute({ component: Shell });
const home = createRoute({
	getParentRoute: () => rootRoute,
	path: "/",
	component: Home,
});
const compare = createRoute({
	getParentRoute: () => rootRoute,
	path: "/compare",
	// A question opens in the place that can show it, wherever its link was kept.
	beforeLoad: ({ search }) => {
		if (search.q?.show && ["items", "bias"].includes(search.q.show))
			throw redirect({ to: "/tests", search, replace: true });
		if (search.q?.show === "awards") throw redirect({ to: "/awards", search, replace: true });
		if (search.q?.show === "movement") throw redirect({ to: "/progress", search, replace: true });
	},
	component: lazyRouteComponent(() => import("../features/compare/ComparePage"), "ComparePage"),
	errorComponent: Unreadable,
	validateSearch: (search: Record<string, unknown>): Asked => askedIn(search),
});
const tests = createRoute({
	getParentRoute: () => rootRoute,
	path: "/tests",
	beforeLoad: ({ search }) => {
		if (search.q && !["items", "bias", "spread"].includes(search.q.show ?? "spans"))
			throw redirect({ to: "/compare", search, replace: true });
	},
	component: lazyRouteComponent(() => import("../features/tests/TestsPage"), "TestsPage"),
	errorComponent: Unreadable,
	validateSearch: (search: Record<string, unknown>): Asked => askedIn(search),
});
const progress = createRoute({
	getParentRoute: () => rootRoute,
	path: "/progress",
	component: lazyRouteComponent(() => import("../features/progress/ProgressPage"), "ProgressPage"),
	errorComponent: Unreadable,
	validateSearch: (search: Record<string, unknown>): Asked => askedIn(search),
});
const awards = createRoute({
	getParentRoute: () => rootRoute,
	path: "/awards",
	component: lazyRouteComponent(() => import("../features/awards/AwardsPage"), "AwardsPage"),
	errorComponent: Unreadable,
	validateSearch: (search: Record<string, unknown>): Asked => askedIn(search),
});
const intake = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake",
	component: lazyRouteComponent(() => import("../features/intake/IntakePage"), "IntakePage"),
});
const grid = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/grid",
	component: lazyRouteComponent(() => import("../features/grid/GridPage"), "GridPage"),
});
const scale = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/scale",
	component: lazyRouteComponent(() => import("../features/scale/ScalePage"), "ScalePage"),
});
const movementRule = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/movement",
	component: lazyRouteComponent(() => import("../features/movement/RulePage"), "RulePage"),
});
const awardRule = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/award",
	component: lazyRouteComponent(
		() => import("../features/awardRule/AwardRulePage"),
		"AwardRulePage",
	),
});
const exact = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/exact",
	component: lazyRouteComponent(() => import("../features/exact/ExactPage"), "ExactPage"),
});
const draft = createRoute({
	getParentRoute: () => rootRoute,
	path: "/intake/$draftId",
	component: lazyRouteComponent(() => import("../features/intake/DraftPage"), "DraftPage"),
	validateSearch: (search: Record<string, unknown>): { step?: "columns" } => ({
		step: search.step === "columns" ? "columns" : undefined,
	}),
});

const people = createRoute({
	getParentRoute: () => rootRoute,
	path: "/people",
	component: lazyRouteComponent(() => import("../features/people/PeoplePage"), "PeoplePage"),
	errorComponent: Unreadable,
	validateSearch: (search: Record<string, unknown>): { list?: number; q?: Question } => ({
		...askedList(search),
		...(search.q === undefined ? {} : askedIn({ q: search.q })),
	}),
});
const student = createRoute({
	getParentRoute: () => rootRoute,
	path: "/people/student/$id",
	component: lazyRouteComponent(() => import("../features/people/StudentPage"), "StudentPage"),
	validateSearch: askedList,
});

const setup = createRoute({
	getParentRoute: () => rootRoute,
	path: "/setup",
	component: lazyRouteComponent(() => import("../features/setup/SetupPage"), "SetupPage"),
});
const records = createRoute({
	getParentRoute: () => rootRoute,
	path: "/setup/records",
	component: lazyRouteComponent(() => import("../features/records/RecordsPage"), "RecordsPage"),
});
const published = createRoute({
	getParentRoute: () => rootRoute,
	path: "/published",
	component: lazyRouteComponent(
		() => import("../features/published/PublishedPage"),
		"PublishedPage",
	),
	validateSearch: (search: Record<string, unknown>): AskedPublished => askedPublished(search),
});
const names = createRoute({
	getParentRoute: () => rootRoute,
	path: "/setup/names",
	component: lazyRouteComponent(() => import("../features/names/NamesPage"), "NamesPage"),
});
const accounts = createRoute({
	getParentRoute: () => rootRoute,
	path: "/setup/accounts",
	component: lazyRouteComponent(() => import("../features/accounts/AccountsPage"), "AccountsPage"),
});
const audit = createRoute({
	getParentRoute: () => rootRoute,
	path: "/setup/audit",
	component: lazyRouteComponent(() => import("../features/audit/AuditPage"), "AuditPage"),
});
const own = createRoute({
	getParentRoute: () => rootRoute,
	path: "/account",
	component: lazyRouteComponent(() => import("../features/signin/OwnAccount"), "OwnAccount"),
});
// Shown by the frame, whoever is signed in; here so that the address is known.
const welcome = createRoute({ getParentRoute: () => rootRoute, path: "/welcome" });
const method = createRoute({
	getParentRoute: () => rootRoute,
	path: "/methods/$page",
	component: lazyRouteComponent(() => import("../features/methods/MethodPage"), "MethodPage"),
});

export const router = createRouter({
	defaultErrorComponent: Unreadable,
	defaultPendingComponent: () => <Waiting what="Opening the page" />,
	defaultPreload: "intent",
	routeTree: rootRoute.addChildren([
		home,
		accounts,
		audit,
		records,
		published,
		own,
		welcome,
		compare,
		tests,
		progress,
		awards,
		intake,
		grid,
		scale,
		movementRule,
		awardRule,
		exact,
		draft,
		people,
		student,
		setup,
		names,
		method,
	]),
	defaultNotFoundComponent: () => <p className="p-6">There is no such page.</p>,
});

declare module "@tanstack/react-router" {
	interface Register {
		router: typeof router;
	}
}

import { Link } from "@tanstack/react-router";
import { figure } from "../../lib/numbers";
import { day } from "../../lib/words";
import type { KeptList } from "./useLists";

/** The lists that one may open: one's own, then what others share. */
export function Lists({ lists, now }: { lists: KeptList[]; now: number | undefined }) {
	const own = lists.filter((one) => one.own);
	const others = lists.filter((one) => !one.own);
	return (
		<nav aria-label="Lists">
			<p className="mb-1 text-xs font-semibold text-muted">Lists</p>
			{lists.length === 0 && (
				<p className="text-[13px] text-muted">
					None yet. Open any mark in Compare and keep its students as a list.
				</p>
			)}
			<Some lists={own} now={now} />
			{others.length > 0 && (
				<p className="mt-3 mb-1 text-xs font-semibold text-muted">Shared with you</p>
			)}
			<Some lists={others} now={now} />
			<Link
				to="/people"
				search={{}}
				className="mt-2 block px-2 text-[13px] font-semibold text-ahead hover:underline"
			>
				Find somebody
			</Link>
		</nav>
	);
}

function Some({ lists, now }: { lists: KeptList[]; now: number | undefined }) {
	return (
		<ul className="space-y-0.5">
			{lists.map((one) => (
				<li key={one.id}>
					<Link
						to="/people"
						search={{ list: one.id }}
						aria-current={one.id === now ? "page" : undefined}
						className={`block rounded-r px-2 py-1 hover:bg-paper ${one.id === now ? "border-l-[3px] border-amber bg-paper" : "border-l-[3px] border-transparent"}`}
					>
						<b className={one.id === now ? "" : "font-normal"}>{one.name}</b>
						<span className="text-muted"> · {aside(one)}</span>
					</Link>
				</li>
			))}
		</ul>
	);
}

function aside(list: KeptList): string {
	if (list.trouble) return "cannot be opened now";
	const shared = list.shared || someoneIn(list) ? "shared" : "";
	const parts = [
		list.students == null ? "" : figure(list.students, 0),
		list.plan?.review ? `review ${day(list.plan.review)}` : "",
		list.fixed ? "fixed" : "stays live",
		list.own ? shared : `by ${list.by}`,
	];
	return parts.filter(Boolean).join(", ");
}

export function someoneIn(list: KeptList): boolean {
	const { accounts = [], schools = [] } = list.shared_with;
	return accounts.length + schools.length > 0;
}

import { useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useLocation } from "@tanstack/react-router";
import { useRef } from "react";
import { client, type Schemas, unwrap } from "../api/client";
import { useSession } from "../api/session";
import { Find } from "../features/find/Find";
import { SignIn } from "../features/signin/SignIn";
import { Welcome } from "../features/signin/Welcome";
import { roleName, speak } from "../lib/words";
import { Popover } from "../ui/Popover";
import { Toasts } from "../ui/Toasts";
import { Trouble } from "../ui/Trouble";
import { Waiting } from "../ui/Waiting";
import { Appearance } from "./Appearance";
import { Connection } from "./Connection";
import { Room } from "./Room";

const PLACES = [
	{ to: "/intake", name: "Intake", action: "intake" },
	{ to: "/compare", name: "Compare", action: "ask" },
	{ to: "/progress", name: "Progress", action: "ask" },
	{ to: "/tests", name: "Tests", action: "ask" },
	{ to: "/people", name: "People", action: "open_students" },
	{ to: "/awards", name: "Awards", action: "ask" },
	{ to: "/published", name: "Published", action: "published" },
] as const;

/** The frame: places on the left, the person on the right, the place below. */
export function Shell() {
	const session = useSession();
	const at = useLocation();
	const was = useRef(false);
	if (at.pathname === "/welcome") return <Welcome key={at.hash} secret={at.hash} />;
	if (session.isPending) return <Waiting what="Opening Bridge Chart" />;
	if (session.isError)
		return (
			<main className="p-6">
				<Trouble error={session.error} />
			</main>
		);
	if (session.data === null) return <SignIn over={was.current} />;
	was.current = true;
	speak(session.data.words);
	return (
		<div className="print-flow flex h-full flex-col">
			<TopBar person={session.data} />
			{session.data.seeing_as && <SeeingAs person={session.data} />}
			<Connection />
			{session.data.may.includes("backups") && <Room />}
			{/* Other words are other text everywhere: the place begins anew. */}
			<main
				key={JSON.stringify(session.data.words)}
				className="print-flow min-h-0 flex-1 overflow-auto"
			>
				<Outlet />
			</main>
			<Toasts />
		</div>
	);
}

function TopBar({ person }: { person: Schemas["Person"] }) {
	const queries = useQueryClient();
	async function signOut(): Promise<void> {
		const told = await unwrap(client.DELETE("/api/session"));
		queries.clear();
		window.location.assign(told.at_provider ?? "/");
	}
	const initials = person.name
		.split(" ")
		.map((part) => part[0])
		.join("");
	return (
		<header className="no-print flex h-[46px] shrink-0 items-stretch gap-1 bg-bar px-5 text-on-bar max-[800px]:px-2">
			<span className="mr-5 flex items-center gap-2 font-bold max-[800px]:mr-1">
				<Mark /> <span className="max-[800px]:sr-only">Bridge Chart</span>
			</span>
			<nav aria-label="Places" className="flex items-stretch">
				{PLACES.filter((place) => person.may.includes(place.action)).map((place) => (
					<Link
						key={place.to}
						to={place.to}
						className="flex items-center border-b-[3px] border-transparent px-3.5 pt-[3px] max-[800px]:px-2 text-on-bar/85 hover:text-on-bar"
						activeProps={{
							className: "!border-amber font-semibold !text-on-bar",
							"aria-current": "page",
						}}
					>
						{place.name}
					</Link>
				))}
			</nav>
			<span className="ml-auto flex items-center">
				{person.names_hidden && (
					<span className="mr-3 rounded bg-amber px-2 py-0.5 text-xs font-bold text-[#16243a]">
						Names hidden
					</span>
				)}
				{person.may.includes("ask") && <Find />}
				<Popover
					label={`${initials}, ${person.name}, your account`}
					title="Your account"
					width={220}
					className="grid size-7 place-items-center rounded-full bg-amber text-xs font-bold text-[#16243a]"
					trigger={initials}
				>
					{(close) => (
						<div className="p-1">
							<p className="font-semibold">{person.name}</p>
							<p className="mb-2 text-muted">{roleName(person.role)}</p>
							{person.may.includes("release") && (
								<Link to="/setup" className="btn btn-sm mb-2 w-full" onClick={close}>
									Setup
								</Link>
							)}
							{person.may.includes("own_account") && (
								<Link to="/account" className="btn btn-sm mb-2 w-full" onClick={close}>
									Password and sessions
								</Link>
							)}
							{person.may.includes("open_students") && <HideNames person={person} />}
							<Appearance />
							<button type="button" className="btn btn-sm w-full" onClick={signOut}>
								Sign out
							</button>
						</div>
					)}
				</Popover>
			</span>
		</header>
	);
}

/** Whoever looks as somebody else sees is told so, on every page, and how to stop. */
function SeeingAs({ person }: { person: Schemas["Person"] }) {
	const queries = useQueryClient();
	async function stop(): Promise<void> {
		await unwrap(client.PUT("/api/session/as", { body: { account: null } }));
		queries.clear();
		window.location.assign("/setup/accounts");
	}
	return (
		<p
			role="status"
			className="no-print flex items-center gap-4 bg-amber px-5 py-1 text-[13px] text-[#16243a]"
		>
			<span>
				You look as <b>{person.name}</b>, {roleName(person.role)}, sees. Nothing can be changed so.
			</span>
			<button type="button" className="font-bold underline" onClick={stop}>
				Look as yourself
			</button>
		</p>
	);
}

/** For meetings and pictures: no name of a student anywhere, until it is said otherwise. */
function HideNames({ person }: { person: Schemas["Person"] }) {
	const queries = useQueryClient();
	const hidden = person.names_hidden;
	async function turn(): Promise<void> {
		await unwrap(client.PUT("/api/session/names", { body: { hidden: !hidden } }));
		await queries.resetQueries();
	}
	return (
		<label className="mb-2 flex items-baseline gap-2">
			<input
				type="checkbox"
				className="relative top-0.5 accent-(--color-ahead)"
				checked={hidden}
				onChange={turn}
			/>
			Hide students' names
		</label>
	);
}

export function Mark() {
	return (
		<svg width="26" height="16" viewBox="0 0 26 16" aria-hidden="true" className="shrink-0">
			<path
				d="M0 14.500h26M2 14.500C2-2 24-2 24 14.500M7.500 14.500V5M13 14.500V2.500M18.500 14.500V5"
				fill="none"
				stroke="var(--color-amber)"
				strokeWidth="1.800"
			/>
		</svg>
	);
}

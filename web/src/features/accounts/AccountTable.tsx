import type { Schemas } from "../../api/client";
import { day, roleName } from "../../lib/words";
import { type Column, DataTable } from "../../ui/DataTable";
import type { Account } from "./useAccounts";

interface Props {
	data: Schemas["AccountList"];
	/** The login of whoever looks. */
	me: string;
	chosen: Account | null;
	busy: boolean;
	change: (one: Account) => void;
	send: (one: Account) => void;
	close: (one: Account) => void;
	signOut: (one: Account) => void;
	seeAs: (one: Account) => void;
	takeCodes: (one: Account) => void;
}

const ACT = "text-ahead hover:underline disabled:text-muted disabled:no-underline";

/** Everybody, with what can be done. */
export function AccountTable(props: Props) {
	const { data, me, chosen, busy } = props;
	const columns: Column<Account>[] = [
		{
			key: "name",
			label: "name",
			side: "left",
			cell: (one) => (
				<>
					{one.name}
					<small className="block font-normal text-muted">{one.login}</small>
				</>
			),
		},
		{ key: "role", label: "role", side: "left", cell: (one) => roleName(one.role) },
		{ key: "sees", label: "sees", side: "left", cell: (one) => sees(one, data.schools) },
		{
			key: "seen",
			label: "last here",
			side: "left",
			cell: (one) =>
				one.state === "closed" ? (
					<b>closed</b>
				) : one.state === "invited" ? (
					<b className="text-amber-ink">invited, not come yet</b>
				) : (
					(one.seen && day(one.seen)) || "never"
				),
		},
		{
			key: "acts",
			label: "",
			side: "left",
			cell: (one) => (
				<span className="flex flex-wrap gap-x-3 whitespace-nowrap">
					<Act words="Change" one={one} busy={busy} act={props.change} />
					{one.state !== "closed" && (
						<Act words="New link" one={one} busy={busy} act={props.send} />
					)}
					{one.state === "open" && (
						<Act words="Sign out" one={one} busy={busy} act={props.signOut} />
					)}
					{one.login !== me && one.state !== "closed" && (
						<Act words="See as" one={one} busy={busy} act={props.seeAs} />
					)}
					{one.codes && <Act words="Take codes away" one={one} busy={busy} act={props.takeCodes} />}
					{one.login !== me && (
						<Act
							words={one.state === "closed" ? "Open again" : "Close"}
							one={one}
							busy={busy}
							act={props.close}
						/>
					)}
				</span>
			),
		},
	];
	return (
		<DataTable
			caption="Accounts"
			rows={data.accounts}
			keyOf={(one) => String(one.id)}
			columns={columns}
			rowClass={(one) =>
				one.id === chosen?.id ? "bg-wash" : one.state === "closed" ? "text-muted" : ""
			}
		/>
	);
}

interface ActProps {
	words: string;
	one: Account;
	busy: boolean;
	act: (one: Account) => void;
}

function Act({ words, one, busy, act }: ActProps) {
	return (
		<button
			type="button"
			className={ACT}
			disabled={busy}
			aria-label={`${words}: ${one.name}`}
			onClick={() => act(one)}
		>
			{words}
		</button>
	);
}

/** Whose students somebody sees, in words. */
export function sees(one: Account, schools: readonly { id: number; name: string }[]): string {
	if (one.role === "data_lead") return "the whole district";
	if (one.role === "viewer") return "what is published";
	const called = new Map(schools.map((school) => [school.id, school.name]));
	const led = one.role === "school_lead" ? (one.schools ?? []) : [];
	const parts = [
		...led.map((id) => called.get(id) ?? "a school that is no more"),
		...(one.teachers ?? []).map(
			(teacher) => `classes of ${teacher.name}, ${called.get(teacher.school) ?? "elsewhere"}`,
		),
	];
	return parts.join("; ") || "nobody yet";
}

import { useState } from "react";
import { useSession } from "../../api/session";
import { PageUnder, SETUP } from "../../ui/PageUnder";
import { Trouble } from "../../ui/Trouble";
import { AccountForm } from "./AccountForm";
import { AccountTable } from "./AccountTable";
import { LinkShown } from "./LinkShown";
import { type Account, type Made, useAccounts } from "./useAccounts";

/** Who may sign in and what they see: invited, changed, closed. */
export function AccountsPage() {
	const [chosen, setChosen] = useState<Account | "new" | null>(null);
	const [link, setLink] = useState<Made | null>(null);
	const session = useSession();
	const accounts = useAccounts((made) => {
		setLink(made);
		setChosen(null);
	});
	const { found, invite, change, close, link: send, signOut, takeCodes, seeAs } = accounts;
	const data = found.data;
	const done = [close, send, signOut, takeCodes, seeAs];
	const error = found.error ?? done.find((one) => one.error)?.error;
	function choose(one: Account | "new" | null): void {
		setLink(null);
		invite.reset();
		change.reset();
		setChosen(one);
	}
	return (
		<PageUnder
			of={SETUP}
			title="Who uses it"
			about="Whoever leads a school sees its students; a teacher their own classes, as the rosters have them from day to day; a viewer what is published, and no student. What you change here counts at once."
		>
			{error && <Trouble error={error} />}
			<div className="grid items-start gap-6 min-[1000px]:grid-cols-[minmax(0,1fr)_360px]">
				<div className="min-w-0">
					{data && (
						<AccountTable
							{...{ data, me: session.data?.login ?? "" }}
							chosen={chosen === "new" ? null : chosen}
							change={choose}
							send={(one) => send.mutate(one)}
							close={(one) => close.mutate(one)}
							signOut={(one) => signOut.mutate(one)}
							seeAs={(one) => seeAs.mutate(one)}
							takeCodes={(one) => takeCodes.mutate(one)}
							busy={done.some((one) => one.isPending)}
						/>
					)}
					<button
						type="button"
						className="btn btn-primary btn-sm mt-3"
						onClick={() => choose("new")}
					>
						Invite somebody
					</button>
				</div>
				<div>
					{link && <LinkShown link={link} />}
					{chosen && data && (
						<AccountForm
							key={chosen === "new" ? "new" : chosen.id}
							of={chosen === "new" ? null : chosen}
							{...{ data }}
							error={invite.error ?? change.error}
							busy={invite.isPending || change.isPending}
							leave={() => choose(null)}
							save={(login, said) =>
								chosen === "new"
									? invite.mutate({ ...said, login })
									: change.mutate({ one: chosen, said }, { onSuccess: () => choose(null) })
							}
						/>
					)}
				</div>
			</div>
		</PageUnder>
	);
}

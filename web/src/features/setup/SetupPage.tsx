import { Link } from "@tanstack/react-router";
import { Backups } from "./Backups";
import { OwnWords } from "./OwnWords";
import { Releases } from "./Releases";
import { WhoSees } from "./WhoSees";

/** What others than the data lead see, and the words that everybody reads. */
export function SetupPage() {
	return (
		<div className="h-full overflow-auto px-5 py-4">
			<h1 className="mb-1 text-xl font-bold">Setup</h1>
			<p className="mb-5 text-muted">
				Who leads a school sees their own students. What they see of others, and in which words
				everybody reads, you decide here.
			</p>
			<div className="grid max-w-[1120px] gap-10 lg:grid-cols-2">
				<div className="flex flex-col gap-10">
					<Releases />
					<section aria-labelledby="accounts">
						<h2 id="accounts" className="mb-1 font-bold">
							Accounts
						</h2>
						<p className="mb-2 text-muted">
							Who may sign in, as what, and whose students they see.
						</p>
						<Link to="/setup/accounts" className="btn btn-sm">
							Invite and change
						</Link>{" "}
						<Link to="/setup/audit" className="btn btn-sm">
							What was done
						</Link>
					</section>
					<section aria-labelledby="records">
						<h2 id="records" className="mb-1 font-bold">
							Students' records
						</h2>
						<p className="mb-2 text-muted">
							How long leavers and the audit are kept, and who was erased, with receipts.
						</p>
						<Link to="/setup/records" className="btn btn-sm">
							Keep and erase
						</Link>
					</section>
					<section aria-labelledby="names">
						<h2 id="names" className="mb-1 font-bold">
							Names
						</h2>
						<p className="mb-2 text-muted">
							What files write in several ways and is one and the same: schools, subjects, tests,
							sittings, characteristics and their values; the order of values, and the dates of
							sittings.
						</p>
						<Link to="/setup/names" className="btn btn-sm">
							Join and rename
						</Link>
					</section>
				</div>
				<WhoSees />
				<Backups />
				<OwnWords />
			</div>
		</div>
	);
}

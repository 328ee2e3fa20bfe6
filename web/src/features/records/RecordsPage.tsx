import { moment } from "../../lib/words";
import { PageUnder, SETUP } from "../../ui/PageUnder";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Receipt } from "./Receipt";
import { Retention } from "./Retention";
import { type Erasure, useRecords } from "./useRecords";

const STATES: Record<string, string> = {
	waiting: "waiting for the worker",
	sweeping: "being finished",
	done: "done",
	stopped: "stopped",
};

/** How long students' records are kept, and who was erased. */
export function RecordsPage() {
	const { erasures, kept, say, leavers } = useRecords();
	return (
		<PageUnder
			of={SETUP}
			title="Students' records"
			about="One student is erased from their own page, after a request: from every version, file, list and note, for good. Leavers are proposed here, once the time is over for which they are kept."
		>
			{kept.isPending && <Waiting what="Looking up the record" />}
			<div className="grid max-w-[1120px] items-start gap-10 lg:grid-cols-[minmax(0,420px)_minmax(0,1fr)]">
				{kept.data && (
					<Retention
						key={kept.data.rule.revision}
						kept={kept.data}
						busy={say.isPending || leavers.isPending}
						say={(rule) => say.mutate(rule)}
						erase={(due) => leavers.mutate(due)}
					/>
				)}
				<section aria-labelledby="erased">
					<h2 id="erased" className="mb-1 font-bold">
						Erased
					</h2>
					{erasures.data?.length === 0 && <p className="text-muted">Nobody was erased so far.</p>}
					{(erasures.data ?? []).map((one) => (
						<One key={one.id} one={one} />
					))}
				</section>
			</div>
			{[kept, erasures, say, leavers].map(
				(one, at) => one.error && <Trouble key={["a", "b", "c", "d"][at]} error={one.error} />,
			)}
		</PageUnder>
	);
}

function One({ one }: { one: Erasure }) {
	return (
		<details className="border-t border-line py-2">
			<summary className="cursor-pointer">
				<b>{one.reference}</b>{" "}
				<span className="text-muted">
					{one.students === 1 ? "1 student" : `${one.students} students`}, asked by {one.by},{" "}
					{moment(one.at)}: <span role="status">{STATES[one.state] ?? one.state}</span>
				</span>
			</summary>
			{one.trouble && <p className="text-behind">{one.trouble}</p>}
			{one.receipt && <Receipt erasure={one} />}
		</details>
	);
}

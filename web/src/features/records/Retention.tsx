import { useState } from "react";
import type { Schemas } from "../../api/client";
import { count, figure } from "../../lib/numbers";
import { Modal } from "../../ui/Modal";
import { PlainTable } from "../../ui/PlainTable";

interface Props {
	kept: Schemas["Kept"];
	busy: boolean;
	say: (rule: Schemas["Retention"]) => void;
	erase: (due: number) => void;
}

/** For how long leavers and the audit are kept; whoever's time is over is proposed. */
export function Retention({ kept, busy, say, erase }: Props) {
	const [leavers, setLeavers] = useState(String(kept.rule.leavers_years ?? ""));
	const [audit, setAudit] = useState(String(kept.rule.audit_years ?? ""));
	const [asking, setAsking] = useState(false);
	const rule = {
		leavers_years: years(leavers),
		audit_years: years(audit),
		revision: kept.rule.revision,
	};
	const same =
		rule.leavers_years === kept.rule.leavers_years && rule.audit_years === kept.rule.audit_years;
	return (
		<section aria-labelledby="kept" className="no-print">
			<h2 id="kept" className="mb-1 font-bold">
				How long records are kept
			</h2>
			<form
				aria-label="How long records are kept"
				className="flex flex-col gap-2"
				onSubmit={(event) => {
					event.preventDefault();
					say(rule);
				}}
			>
				<Years
					label="Leavers"
					words="school years after their last one"
					value={leavers}
					save={setLeavers}
				/>
				<Years
					label="Lines of the audit"
					words="years; older ones are removed by themselves"
					value={audit}
					save={setAudit}
				/>
				<p className="text-[13px] text-muted">Left empty: for good.</p>
				<button
					type="submit"
					className="btn btn-primary btn-sm self-start"
					disabled={
						busy || same || Number.isNaN(rule.leavers_years) || Number.isNaN(rule.audit_years)
					}
				>
					Save
				</button>
			</form>
			<h3 className="mt-5 mb-1 font-semibold">Who left when</h3>
			{kept.leavers.length === 0 ? (
				<p className="text-muted">Nobody has left yet.</p>
			) : (
				<PlainTable heads={["Last school year", "Students", "Time over"]} figures={["Students"]}>
					{kept.leavers.map((one) => (
						<tr key={one.last_year}>
							<th scope="row" className="font-normal">
								{one.last_year}
							</th>
							<td className="text-right">{figure(one.students, 0)}</td>
							<td>{one.due ? "yes" : ""}</td>
						</tr>
					))}
				</PlainTable>
			)}
			{kept.due > 0 && (
				<button
					type="button"
					className="btn btn-outline btn-sm mt-3"
					disabled={busy}
					onClick={() => setAsking(true)}
				>
					Erase {count(kept.due, "leaver")}
				</button>
			)}
			<Modal title="Erase leavers" open={asking} setOpen={setAsking} width={440}>
				{(close) => (
					<div className="flex flex-col gap-3">
						<h2 className="font-bold">Erase {count(kept.due, "leaver")}?</h2>
						<p>
							They go from every version, file, list and note, for good. Look first whether a school
							is missing from the rosters: its students look like leavers.
						</p>
						<div className="flex gap-2">
							<button
								type="button"
								className="btn btn-primary btn-sm"
								onClick={() => {
									erase(kept.due);
									close();
								}}
							>
								Erase them
							</button>
							<button type="button" className="btn btn-outline btn-sm" onClick={close}>
								Leave it
							</button>
						</div>
					</div>
				)}
			</Modal>
		</section>
	);
}

/** Whole years; null: for good; not a number: something else was typed. */
function years(text: string): number | null {
	if (!text.trim()) return null;
	const n = Number(text);
	return Number.isInteger(n) && n > 0 ? n : Number.NaN;
}

interface YearsProps {
	label: string;
	words: string;
	value: string;
	save: (text: string) => void;
}

function Years({ label, words, value, save }: YearsProps) {
	return (
		<label className="flex items-baseline gap-2">
			<span className="w-36 shrink-0 font-semibold">{label}</span>
			<input
				className="input input-sm w-16 shrink-0"
				inputMode="numeric"
				value={value}
				onChange={(event) => save(event.target.value)}
			/>
			<span className="text-[13px] text-muted">{words}</span>
		</label>
	);
}

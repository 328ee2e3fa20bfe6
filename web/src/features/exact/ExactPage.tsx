import { useMutation } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { useCatalogue } from "../../api/catalogue";
import { uploadDraft } from "../../api/client";
import { capitalised, yearLevel } from "../../lib/words";
import { LabelField } from "../../ui/LabelField";
import { SeeFirst } from "../../ui/SeeFirst";
import { Trouble } from "../../ui/Trouble";
import { asFile, BLANK, type ExactText, SCORES, wrongIn } from "./exact";

/** How exact a score is, typed; it is kept like any file, as a new version. */
export function ExactPage() {
	const navigate = useNavigate();
	const [exact, setExact] = useState<ExactText>(BLANK);
	const known = useCatalogue();
	const look = useMutation({
		mutationFn: () => uploadDraft("reliability", asFile(exact)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.id } }),
	});
	const tests = [...new Set((known.data?.measures ?? []).map((one) => one.assessment))];
	const wrong = wrongIn(exact);
	const set = (part: Partial<ExactText>) => setExact({ ...exact, ...part });
	const field = (name: keyof ExactText, label: string, hint: string) => (
		<LabelField
			label={label}
			hint={hint}
			width="w-36"
			value={exact[name]}
			save={(text) => set({ [name]: text })}
		/>
	);
	return (
		<div className="h-full overflow-auto px-5 py-4">
			<p className="text-[13px]">
				<Link to="/intake" className="font-semibold text-ahead hover:underline">
					Intake
				</Link>
			</p>
			<h1 className="text-xl font-bold">How exact a score is</h1>
			<p className="mb-4 max-w-2xl text-muted">
				Every comparison with where they started reads it: a mark then holds at this reliability,
				and the error in the start can be corrected for. Until it is said, a mark must hold at .80
				and at .95.
			</p>
			<div className="mb-4 flex flex-wrap items-end gap-3">
				<label>
					<span className="block text-[13px] font-semibold">Test</span>
					<input
						className="input input-sm w-56"
						list="tests"
						value={exact.test}
						onChange={(event) => set({ test: event.target.value })}
					/>
				</label>
				<datalist id="tests">
					{tests.map((test) => (
						<option key={test}>{test}</option>
					))}
				</datalist>
				<label>
					<span className="block text-[13px] font-semibold">Kind of score</span>
					<select
						className="select select-sm w-32"
						value={exact.score}
						onChange={(event) => set({ score: event.target.value })}
					>
						{SCORES.map((score) => (
							<option key={score}>{score}</option>
						))}
					</select>
				</label>
				{field("subject", "Subject", "all of them")}
				{field("yearLevel", capitalised(yearLevel()), "all of them")}
				{field("form", "Form", "all of them")}
			</div>
			<div className="flex flex-wrap items-end gap-3">
				{field("reliability", "Reliability", "0.91")}
				<span className="pb-1.5 text-muted">or</span>
				{field("error", "Error of measurement", "in its unit")}
			</div>
			<p className="mt-2 max-w-2xl text-xs text-muted">
				Cronbach's α of the questions is an upper bound: errors that a whole day or a whole class
				shares are not in it.
			</p>
			{(known.isError || look.isError) && <Trouble error={known.error ?? look.error} />}
			<SeeFirst wrong={wrong} busy={look.isPending} look={() => look.mutate()} />
		</div>
	);
}

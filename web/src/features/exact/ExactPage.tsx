import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, unwrap, uploadDraft } from "../../api/client";
import { Trouble } from "../../ui/Trouble";
import { asFile, BLANK, type ExactText, SCORES, wrongIn } from "./exact";

/** How exact a score is, typed; it is kept like any file, as a new version. */
export function ExactPage() {
	const navigate = useNavigate();
	const [exact, setExact] = useState<ExactText>(BLANK);
	const known = useQuery({
		queryKey: ["catalogue"],
		queryFn: () => unwrap(client.GET("/api/catalogue")),
	});
	const look = useMutation({
		mutationFn: () => uploadDraft("reliability", asFile(exact)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.id } }),
	});
	const tests = [...new Set((known.data?.measures ?? []).map((one) => one.assessment))];
	const wrong = wrongIn(exact);
	const set = (part: Partial<ExactText>) => setExact({ ...exact, ...part });
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
				<Field {...{ exact, set }} name="subject" label="Subject" hint="all of them" />
				<Field {...{ exact, set }} name="yearLevel" label="Year level" hint="all of them" />
				<Field {...{ exact, set }} name="form" label="Form" hint="all of them" />
			</div>
			<div className="flex flex-wrap items-end gap-3">
				<Field {...{ exact, set }} name="reliability" label="Reliability" hint="0.91" />
				<span className="pb-1.5 text-muted">or</span>
				<Field {...{ exact, set }} name="error" label="Error of measurement" hint="in its unit" />
			</div>
			<p className="mt-2 max-w-2xl text-xs text-muted">
				Cronbach's α of the questions is an upper bound: errors that a whole day or a whole class
				shares are not in it.
			</p>
			{(known.isError || look.isError) && <Trouble error={known.error ?? look.error} />}
			<div className="mt-4 flex items-center gap-4">
				<button
					type="button"
					className="btn btn-primary btn-sm"
					disabled={wrong !== undefined || look.isPending}
					onClick={() => look.mutate()}
				>
					See what would be kept
				</button>
				<p role="status" className="text-muted">
					{wrong}
				</p>
			</div>
		</div>
	);
}

interface FieldProps {
	exact: ExactText;
	set: (part: Partial<ExactText>) => void;
	name: keyof ExactText;
	label: string;
	hint: string;
}

function Field({ exact, set, name, label, hint }: FieldProps) {
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<input
				className="input input-sm w-36"
				value={exact[name]}
				placeholder={hint}
				onChange={(event) => set({ [name]: event.target.value })}
			/>
		</label>
	);
}

import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, unwrap, uploadDraft } from "../../api/client";
import { LabelField } from "../../ui/LabelField";
import { SeeFirst } from "../../ui/SeeFirst";
import { StartFrom } from "../../ui/StartFrom";
import { Trouble } from "../../ui/Trouble";
import { StepRows } from "./StepRows";
import { asFile, BLANK, type ScaleText, textOf, wrongIn } from "./scale";

/** A scale of grades or levels, written or changed; it is kept like any file, as a new version. */
export function ScalePage() {
	const navigate = useNavigate();
	const [scale, setScale] = useState<ScaleText>(BLANK);
	const known = useQuery({
		queryKey: ["scales"],
		queryFn: () => unwrap(client.GET("/api/scales")),
	});
	const look = useMutation({
		mutationFn: () => uploadDraft("scale", asFile(scale)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.id } }),
	});
	const wrong = wrongIn(scale);
	const scales = known.data?.scales ?? [];
	const set = (part: Partial<ScaleText>) => setScale({ ...scale, ...part });
	return (
		<div className="h-full overflow-auto px-5 py-4">
			<p className="text-[13px]">
				<Link to="/intake" className="font-semibold text-ahead hover:underline">
					Intake
				</Link>
			</p>
			<h1 className="text-xl font-bold">A scale of grades or levels</h1>
			<p className="mb-3 text-muted">
				From the lowest step to the highest. Results that are kept already are read with the new
				scale from then on; undoing it brings the old one back.
			</p>
			{known.isError && <Trouble error={known.error} />}
			<div className="mb-4 flex flex-wrap items-end gap-3">
				<StartFrom
					kept="a scale that is kept"
					options={scales.map(({ test, subject, score }) => ({
						key: `${test} ${subject} ${score}`,
						words: [test, subject, score].filter(Boolean).join(", "),
					}))}
					choose={(at) => {
						const chosen = scales[at];
						if (chosen) setScale(textOf(chosen));
					}}
				/>
				<LabelField label="Test" value={scale.test} save={(test) => set({ test })} />
				<LabelField
					label="Subject"
					hint="all of them"
					value={scale.subject}
					save={(subject) => set({ subject })}
				/>
				<label>
					<span className="block text-[13px] font-semibold">Holds</span>
					<select
						className="select select-sm w-32"
						value={scale.score}
						onChange={(event) => set({ score: event.target.value === "level" ? "level" : "grade" })}
					>
						<option value="grade">grades</option>
						<option value="level">levels</option>
					</select>
				</label>
			</div>
			<StepRows scale={scale} set={set} />
			{look.isError && <Trouble error={look.error} />}
			<SeeFirst wrong={wrong} busy={look.isPending} look={() => look.mutate()} />
		</div>
	);
}

import { type FormEvent, useState } from "react";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";
import type { KeptList, useChange } from "./useLists";

interface Props {
	list: KeptList;
	change: ReturnType<typeof useChange>;
}

/** Makes a list something that is acted on: what for, who acts, from when to when. */
export function PlanForm({ list, change }: Props) {
	const [aim, setAim] = useState(list.plan?.aim ?? "");
	const [acts, setActs] = useState(list.plan?.acts ?? "");
	const [start, setStart] = useState(list.plan?.start ?? "");
	const [review, setReview] = useState(list.plan?.review ?? "");
	function submit(event: FormEvent): void {
		event.preventDefault();
		change.mutate({ plan: { aim, acts, start: start || null, review: review || null } });
	}
	const date = (label: string, value: string, set: (text: string) => void) => (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<input
				type="date"
				className="input input-sm w-40"
				value={value}
				onChange={(event) => set(event.target.value)}
			/>
		</label>
	);
	return (
		<form onSubmit={submit} className="space-y-2 p-1">
			<LabelField label="Aim" value={aim} save={setAim} width="w-full" />
			<LabelField label="Who acts" value={acts} save={setActs} width="w-full" />
			<div className="flex gap-3">
				{date("Start", start, setStart)}
				{date("Review", review, setReview)}
			</div>
			<button type="submit" className="btn btn-primary btn-sm" disabled={change.isPending}>
				Save
			</button>
			{change.isSuccess && <p role="status">Saved.</p>}
			{change.isError && <Trouble error={change.error} />}
		</form>
	);
}

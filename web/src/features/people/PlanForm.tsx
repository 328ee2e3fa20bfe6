import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, unwrap } from "../../api/client";
import { LabelField } from "../../ui/LabelField";
import { Trouble } from "../../ui/Trouble";
import type { KeptList, useChange } from "./useLists";

interface Props {
	list: KeptList;
	change: ReturnType<typeof useChange>;
}

/** At review: how they did, beside others who were like them before. */
function HowTheyDid({ list }: { list: KeptList }) {
	const found = useQuery({
		queryKey: ["list effect", list.id, list.revision],
		queryFn: () =>
			unwrap(client.GET("/api/lists/{id}/effect", { params: { path: { id: list.id } } })),
		retry: false,
	});
	return (
		<section aria-label="How they did" className="border-t border-line pt-2">
			<h2 className="font-semibold">How they did</h2>
			{found.isPending && <p className="text-muted">Looking for others like them …</p>}
			{found.data && (
				<>
					<p className="text-[13px] text-muted">{found.data.outcome}</p>
					<ul className="space-y-1 text-[13px]">
						{found.data.says.map((one) => (
							<li key={one}>{one}</li>
						))}
					</ul>
				</>
			)}
			{found.isError && <p className="text-[13px] text-muted">{found.error.message}</p>}
		</section>
	);
}

/** Makes a list something that is acted on: what for, who acts, from when to when. */
export function PlanForm({ list, change }: Props) {
	const [aim, setAim] = useState(list.plan?.aim ?? "");
	const [acts, setActs] = useState(list.plan?.acts ?? "");
	const [start, setStart] = useState(list.plan?.start ?? "");
	const [review, setReview] = useState(list.plan?.review ?? "");
	const [saved, setSaved] = useState(false);
	function submit(event: FormEvent): void {
		event.preventDefault();
		const plan = { aim, acts, start: start || null, review: review || null };
		change.mutate({ plan }, { onSuccess: () => setSaved(true) });
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
			{list.plan && <HowTheyDid list={list} />}
			{saved && <p role="status">Saved.</p>}
			{change.isError && <Trouble error={change.error} />}
		</form>
	);
}

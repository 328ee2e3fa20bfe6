import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { PickList } from "../../ui/PickList";
import { Trouble } from "../../ui/Trouble";
import type { KeptList } from "./useLists";

/** Who may open a list: everybody here, some people, some schools; each in their own scope. */
export function Sharing({ list }: { list: KeptList }) {
	const queries = useQueryClient();
	const [everybody, setEverybody] = useState(list.shared);
	const [accounts, setAccounts] = useState(list.shared_with.accounts ?? []);
	const [schools, setSchools] = useState(list.shared_with.schools ?? []);
	const found = useQuery({
		queryKey: ["colleagues"],
		queryFn: () => unwrap(client.GET("/api/colleagues")),
	});
	const share = useMutation({
		mutationFn: () =>
			unwrap(
				client.PUT("/api/lists/{id}/sharing", {
					params: { path: { id: list.id } },
					body: { revision: list.revision, everybody, shared_with: { accounts, schools } },
				}),
			),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["lists"] }),
	});
	const turned = (all: number[], one: number) =>
		all.includes(one) ? all.filter((other) => other !== one) : [...all, one];
	const pick = (
		group: string,
		{ id, name }: { id: number; name: string },
		chosen: number[],
		set: (all: number[]) => void,
	) => ({
		key: `${group} ${id}`,
		group,
		words: name,
		ticks: true,
		chosen: chosen.includes(id),
		pick: () => set(turned(chosen, id)),
	});
	return (
		<div className="space-y-2 p-1">
			<label className="flex items-baseline gap-2">
				<input
					type="checkbox"
					className="relative top-0.5 accent-(--color-ahead)"
					checked={everybody}
					onChange={(event) => setEverybody(event.target.checked)}
				/>
				Everybody here
			</label>
			{found.data && !everybody && (
				<PickList
					label="people and schools"
					height={240}
					picks={[
						...found.data.schools.map((one) => pick("Whole schools", one, schools, setSchools)),
						...found.data.people.map((one) => pick("People", one, accounts, setAccounts)),
					]}
				/>
			)}
			<p className="text-[13px] text-muted">Each sees students in their own scope alone.</p>
			<button
				type="button"
				className="btn btn-primary btn-sm"
				disabled={share.isPending}
				onClick={() => share.mutate()}
			>
				Share
			</button>
			{share.isSuccess && <p role="status">Done.</p>}
			{(share.error ?? found.error) != null && <Trouble error={share.error ?? found.error} />}
		</div>
	);
}

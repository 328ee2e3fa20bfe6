import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Question, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";

/** Save the students of a list: as they are now, or by the rule that finds them. */
export function SaveGroup({ question }: { question: Question }) {
	const queries = useQueryClient();
	const [name, setName] = useState("");
	const [kind, setKind] = useState<"list" | "rule">("list");
	const [shared, setShared] = useState(false);
	const save = useMutation({
		mutationFn: () =>
			unwrap(client.POST("/api/groups", { body: { name, kind, shared, question } })),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["catalogue"] }),
	});
	function submit(event: FormEvent): void {
		event.preventDefault();
		if (name.trim()) save.mutate();
	}
	return (
		<form onSubmit={submit} className="space-y-2 p-1">
			<label className="block">
				<span className="text-[13px] font-semibold">Name of the group</span>
				<input
					className="input input-sm w-full"
					value={name}
					maxLength={120}
					onChange={(event) => setName(event.target.value)}
				/>
			</label>
			<fieldset>
				<legend className="sr-only">Kind of group</legend>
				{(
					[
						["list", "these students, as they are now"],
						["rule", "whoever fits these conditions, also later"],
					] as const
				).map(([value, words]) => (
					<label key={value} className="flex items-baseline gap-2">
						<input
							type="radio"
							name="kind"
							className="relative top-0.5 accent-(--color-ahead)"
							checked={kind === value}
							onChange={() => setKind(value)}
						/>
						{words}
					</label>
				))}
			</fieldset>
			<label className="flex items-baseline gap-2">
				<input
					type="checkbox"
					className="relative top-0.5 accent-(--color-ahead)"
					checked={shared}
					onChange={(event) => setShared(event.target.checked)}
				/>
				Share it; others see only students in their own scope
			</label>
			<button
				type="submit"
				className="btn btn-primary btn-sm"
				disabled={!name.trim() || save.isPending}
			>
				Save the group
			</button>
			{save.isSuccess && (
				<p role="status">Saved as “{save.data.name}”. It can be used in every question.</p>
			)}
			{save.isError && <Trouble error={save.error} />}
		</form>
	);
}

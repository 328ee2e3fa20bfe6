import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { client, type Question, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";

/** Keep the students of a mark as a list: whoever fits, or these, as they are now. */
export function KeepList({ question }: { question: Question }) {
	const queries = useQueryClient();
	const [name, setName] = useState("");
	const [fixed, setFixed] = useState(false);
	const keep = useMutation({
		mutationFn: () => unwrap(client.POST("/api/lists", { body: { name, question, fixed } })),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["lists"] }),
	});
	function submit(event: FormEvent): void {
		event.preventDefault();
		if (name.trim()) keep.mutate();
	}
	return (
		<form onSubmit={submit} className="space-y-2 p-1">
			<label className="block">
				<span className="text-[13px] font-semibold">Name of the list</span>
				<input
					className="input input-sm w-full"
					value={name}
					maxLength={160}
					onChange={(event) => setName(event.target.value)}
				/>
			</label>
			<fieldset>
				<legend className="sr-only">Who is in it</legend>
				{(
					[
						[false, "whoever fits, also later"],
						[true, "these students, as they are now"],
					] as const
				).map(([value, words]) => (
					<label key={words} className="flex items-baseline gap-2">
						<input
							type="radio"
							name="fixed"
							className="relative top-0.5 accent-(--color-ahead)"
							checked={fixed === value}
							onChange={() => setFixed(value)}
						/>
						{words}
					</label>
				))}
			</fieldset>
			<p className="text-[13px] text-muted">Its columns, order and notes are at People.</p>
			<button
				type="submit"
				className="btn btn-primary btn-sm"
				disabled={!name.trim() || keep.isPending}
			>
				Keep the list
			</button>
			{keep.isSuccess && (
				<p role="status">
					Kept.{" "}
					<Link
						to="/people"
						search={{ list: keep.data.id }}
						className="font-semibold text-ahead hover:underline"
					>
						Open “{keep.data.name}”
					</Link>
				</p>
			)}
			{keep.isError && <Trouble error={keep.error} />}
		</form>
	);
}

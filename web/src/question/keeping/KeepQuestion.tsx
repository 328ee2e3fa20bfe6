import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Question, unwrap } from "../../api/client";
import { Trouble } from "../../ui/Trouble";

/** Save the question under a name; the address already holds it, this makes it found. */
export function KeepQuestion({ question, name }: { question: Question; name: string }) {
	const queries = useQueryClient();
	const [text, setText] = useState(name);
	const [shared, setShared] = useState(false);
	const keep = useMutation({
		mutationFn: () =>
			unwrap(client.POST("/api/questions", { body: { name: text, shared, question } })),
		onSuccess: () => queries.invalidateQueries({ queryKey: ["questions"] }),
	});
	function submit(event: FormEvent): void {
		event.preventDefault();
		if (text.trim()) keep.mutate();
	}
	return (
		<form onSubmit={submit} className="space-y-2 p-1">
			<label className="block">
				<span className="text-[13px] font-semibold">Name</span>
				<input
					className="input input-sm w-full"
					value={text}
					maxLength={160}
					onChange={(event) => setText(event.target.value)}
				/>
			</label>
			<label className="flex items-baseline gap-2">
				<input
					type="checkbox"
					className="relative top-0.5 accent-(--color-ahead)"
					checked={shared}
					onChange={(event) => setShared(event.target.checked)}
				/>
				Share it with everybody here; each sees it in their own scope
			</label>
			<button
				type="submit"
				className="btn btn-primary btn-sm"
				disabled={!text.trim() || keep.isPending}
			>
				Keep
			</button>
			{keep.isSuccess && <p role="status">Kept. Press / to find it again.</p>}
			{keep.isError && <Trouble error={keep.error} />}
		</form>
	);
}

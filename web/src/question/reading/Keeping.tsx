import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Question, unwrap } from "../../api/client";
import { day } from "../../lib/words";
import { Trouble } from "../../ui/Trouble";

/** Notes on this answer, with author and date. */
export function Notes({ question }: { question: Question }) {
	const queries = useQueryClient();
	const [text, setText] = useState("");
	const [shared, setShared] = useState(false);
	const key = ["notes", { ...question, show: undefined, sort: undefined, version: undefined }];
	const notes = useQuery({
		queryKey: key,
		queryFn: () => unwrap(client.POST("/api/notes/find", { body: { question } })),
	});
	const again = () => queries.invalidateQueries({ queryKey: key });
	const add = useMutation({
		mutationFn: () => unwrap(client.POST("/api/notes", { body: { question, text, shared } })),
		onSuccess: () => {
			setText("");
			return again();
		},
	});
	const remove = useMutation({
		mutationFn: (id: number) =>
			unwrap(client.DELETE("/api/notes/{id}", { params: { path: { id } } })),
		onSuccess: again,
	});
	return (
		<section aria-label="Notes" className="mt-3 border-t border-line pt-3">
			<h2 className="mb-1 font-semibold">Notes</h2>
			<ul className="space-y-2 text-[13px]">
				{notes.data?.notes.map((note) => (
					<li key={note.id}>
						<p className="whitespace-pre-wrap">{note.text}</p>
						<p className="text-xs text-muted">
							{note.by}, {day(note.at)}, on version {note.version}
							{note.shared ? ", for colleagues too" : ""}
							{note.own && (
								<button
									type="button"
									className="no-print ml-2 text-ahead hover:underline"
									onClick={() => remove.mutate(note.id)}
								>
									Remove
								</button>
							)}
						</p>
					</li>
				))}
			</ul>
			<form
				className="no-print mt-2 flex gap-2"
				onSubmit={(event) => {
					event.preventDefault();
					if (text.trim()) add.mutate();
				}}
			>
				<input
					className="input input-sm min-w-0 flex-1"
					aria-label="Write a note"
					placeholder="Write a note"
					value={text}
					maxLength={4000}
					onChange={(event) => setText(event.target.value)}
				/>
				<button
					type="submit"
					className="btn btn-outline btn-sm"
					disabled={!text.trim() || add.isPending}
				>
					Add
				</button>
			</form>
			<label className="no-print mt-1 flex items-baseline gap-2 text-[13px] text-muted">
				<input
					type="checkbox"
					className="relative top-0.5 accent-(--color-ahead)"
					checked={shared}
					onChange={(event) => setShared(event.target.checked)}
				/>
				Colleagues who can ask this may read it
			</label>
			{(add.isError || notes.isError) && <Trouble error={add.error ?? notes.error} />}
		</section>
	);
}

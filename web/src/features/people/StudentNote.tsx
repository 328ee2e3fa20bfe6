import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, unwrap } from "../../api/client";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";

interface Props {
	student: number;
	/** What was noted so far. */
	words: string;
	list: number | undefined;
}

/** What was noted about a student, and a way to note more. */
export function StudentNote({ student, words, list }: Props) {
	return (
		<span className="flex items-baseline gap-2">
			<span className="min-w-0">{words}</span>
			<span className="no-print">
				<Popover
					label="Write a note"
					title="Note"
					width={320}
					className="text-[13px] text-ahead hover:underline"
					trigger="+ note"
				>
					{(close) => <NoteForm {...{ student, list }} done={close} />}
				</Popover>
			</span>
		</span>
	);
}

interface FormProps {
	student: number;
	list: number | undefined;
	done: () => void;
}

/** A note about a student, for oneself or for whoever may see them. */
export function NoteForm({ student, list, done }: FormProps) {
	const queries = useQueryClient();
	const [text, setText] = useState("");
	const [shared, setShared] = useState(true);
	const write = useMutation({
		mutationFn: () =>
			unwrap(
				client.POST("/api/students/{id}/notes", {
					params: { path: { id: student } },
					body: { text, shared, list_id: list ?? null },
				}),
			),
		onSuccess: async () => {
			setText("");
			done();
			await Promise.all([
				queries.invalidateQueries({ queryKey: ["answer"] }),
				queries.invalidateQueries({ queryKey: ["student", student] }),
			]);
		},
	});
	function submit(event: FormEvent): void {
		event.preventDefault();
		if (text.trim()) write.mutate();
	}
	return (
		<form onSubmit={submit} className="space-y-2 p-1">
			<label className="block">
				<span className="text-[13px] font-semibold">Note</span>
				<textarea
					className="w-full rounded border border-line bg-paper px-2 py-1"
					rows={3}
					maxLength={2000}
					value={text}
					onChange={(event) => setText(event.target.value)}
				/>
			</label>
			<label className="flex items-baseline gap-2 text-[13px]">
				<input
					type="checkbox"
					className="relative top-0.5 accent-(--color-ahead)"
					checked={shared}
					onChange={(event) => setShared(event.target.checked)}
				/>
				Colleagues who may see this student read it too
			</label>
			<button
				type="submit"
				className="btn btn-primary btn-sm"
				disabled={!text.trim() || write.isPending}
			>
				Add the note
			</button>
			{write.isError && <Trouble error={write.error} />}
		</form>
	);
}

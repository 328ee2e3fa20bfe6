import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Answer, type Schemas, uploadDraft } from "../../api/client";
import { useSession } from "../../api/session";
import { Trouble } from "../../ui/Trouble";
import { keyFile } from "./key";

interface Props {
	answer: Answer;
	row: Schemas["Looked"];
	form: string;
}

/** A data lead says another key: it goes the way of every file, and shows first whose marks move. */
export function Key({ answer, row, form }: Props) {
	const session = useSession();
	const navigate = useNavigate();
	const [key, setKey] = useState(row.instead ?? row.key ?? "");
	const about = answer.measures[0];
	const correct = useMutation({
		mutationFn: () => uploadDraft("questions", keyFile(about, row, form, key)),
		onSuccess: (made) => navigate({ to: "/intake/$draftId", params: { draftId: made.id } }),
	});
	if (!about || !session.data?.may.includes("intake")) return null;
	return (
		<form
			className="no-print mt-2 flex flex-wrap items-end gap-2 text-[13px]"
			onSubmit={(event) => {
				event.preventDefault();
				correct.mutate();
			}}
		>
			<label>
				<span className="block font-semibold">Its key is {row.key}; it should be</span>
				<input
					className="input input-sm w-28"
					value={key}
					aria-describedby="several-keys"
					onChange={(event) => setKey(event.target.value)}
				/>
			</label>
			<button
				type="submit"
				className="btn btn-outline btn-sm"
				disabled={!key.trim() || key.trim() === row.key || correct.isPending}
			>
				Correct the key …
			</button>
			<span id="several-keys" className="text-muted">
				Several right answers: B|D. You see whose marks move before it is kept.
			</span>
			{correct.isError && <Trouble error={correct.error} />}
		</form>
	);
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type DragEvent, useState } from "react";
import { type DraftState, type FileKind, uploadDraft } from "../../api/client";
import { Trouble } from "../../ui/Trouble";

/** A place to drop files of one kind, or to choose them. */
export function Drop({ kind, title, help }: { kind: FileKind; title: string; help: string }) {
	const navigate = useNavigate();
	const queries = useQueryClient();
	const [over, setOver] = useState(false);
	const [sent, setSent] = useState(0);
	const upload = useMutation({
		mutationFn: (files: File[]) => bringAll(kind, files, setSent),
		onSuccess: (drafts) => {
			const [only, ...more] = drafts;
			if (only && more.length === 0 && (only.came_with ?? []).length === 0)
				return navigate({ to: "/intake/$draftId", params: { draftId: only.id } });
		},
		onSettled: () => queries.invalidateQueries({ queryKey: ["drafts"] }),
	});
	function drop(event: DragEvent): void {
		event.preventDefault();
		setOver(false);
		upload.mutate([...event.dataTransfer.files]);
	}
	return (
		<div className="mb-4">
			<label
				onDragOver={(event) => {
					event.preventDefault();
					setOver(true);
				}}
				onDragLeave={() => setOver(false)}
				onDrop={drop}
				className={`block cursor-pointer rounded border border-dashed px-4 py-4 focus-within:outline-2 focus-within:outline-ahead ${over ? "border-amber bg-amber-wash" : "border-neither hover:bg-wash"}`}
			>
				{title && <span className="block font-bold">{title}</span>}
				<span className="block text-muted">{help}</span>
				<span className="mt-2 block font-semibold text-ahead">
					{upload.isPending ? sentWords(sent) : "Drop files here, or choose them"}
				</span>
				<input
					type="file"
					className="sr-only"
					aria-label={`${title || "Other tables"}: choose a file`}
					multiple
					accept=".csv,.txt,.tsv,.xlsx,.xlsm,.xls,.ods,.parquet,.zip,.gz"
					onChange={(event) => {
						upload.mutate([...(event.target.files ?? [])]);
						event.target.value = "";
					}}
				/>
			</label>
			{upload.isError && (
				<div className="mt-2">
					<Trouble error={upload.error} />
				</div>
			)}
		</div>
	);
}

function sentWords(share: number): string {
	return share > 0 && share < 1 ? `Sending, ${Math.round(share * 100)}%…` : "Reading…";
}

/** Every file that can be read waits; the first that cannot is said. */
async function bringAll(
	kind: FileKind,
	files: File[],
	sent: (share: number) => void,
): Promise<DraftState[]> {
	const drafts: DraftState[] = [];
	const troubles: unknown[] = [];
	for (const file of files) {
		await uploadDraft(kind, file, sent).then(
			(draft) => drafts.push(draft),
			(error) => troubles.push(error),
		);
	}
	if (troubles.length > 0) throw troubles[0];
	return drafts;
}

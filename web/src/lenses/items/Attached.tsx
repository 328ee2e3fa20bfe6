import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type Answer, attach, client, type Schemas, unwrap } from "../../api/client";
import { useSession } from "../../api/session";
import { plainOf } from "../../question/model/question";
import { Popover } from "../../ui/Popover";
import { Trouble } from "../../ui/Trouble";

const KINDS = ["paper", "mark scheme", "report"] as const;
type Kind = (typeof KINDS)[number];
type Attachment = Schemas["Attachment"];

/** The sitting that an answer is about, and the form of it. */
export function sittingOf(answer: Answer): number | undefined {
	const { sitting } = plainOf(answer.measures[0]?.asked);
	return typeof sitting === "number" ? sitting : undefined;
}

function useAttached(answer: Answer) {
	const sitting = sittingOf(answer);
	return useQuery({
		queryKey: ["attachments", sitting],
		enabled: sitting !== undefined,
		queryFn: async () => {
			const params = { query: { sitting: sitting ?? 0 } };
			return (await unwrap(client.GET("/api/attachments", { params }))).attachments;
		},
	});
}

interface AttachedProps {
	answer: Answer;
	form: string;
	page?: number | null;
}

/** Paper, mark scheme and reports of the sitting, to open beside; at a question, at its page. */
export function Attached({ answer, form, page }: AttachedProps) {
	const found = useAttached(answer).data ?? [];
	const mine = found.filter((one) => !one.form || one.form === form);
	const shown = page ? mine.filter((one) => one.kind === "paper") : mine;
	return (
		<>
			{shown.map((one) => (
				<a
					key={one.id}
					className="text-[13px] font-semibold text-ahead hover:underline"
					href={`/api/attachments/${one.id}/file${page ? `#page=${page}` : ""}`}
					target="_blank"
					rel="noreferrer"
					title={`${one.name}, ${one.kilobytes} kB; opens beside`}
				>
					{page ? `open the paper at page ${page}` : one.kind}
				</a>
			))}
		</>
	);
}

/** For a data lead: what is attached, one more, one less. */
export function Attaching({ answer }: { answer: Answer }) {
	const session = useSession();
	const sitting = sittingOf(answer);
	if (sitting === undefined || !session.data?.may.includes("intake")) return null;
	return (
		<Popover
			label="Attach a paper, a mark scheme or a report"
			title="What is attached"
			className="mb-1 text-[13px] font-semibold text-ahead hover:underline"
			trigger="attach …"
		>
			{() => <Files answer={answer} sitting={sitting} />}
		</Popover>
	);
}

function Files({ answer, sitting }: { answer: Answer; sitting: number }) {
	const cache = useQueryClient();
	const found = useAttached(answer);
	const [kind, setKind] = useState<Kind>("paper");
	const again = () => cache.invalidateQueries({ queryKey: ["attachments", sitting] });
	const add = useMutation({
		mutationFn: (file: File) => attach(sitting, kind, file),
		onSuccess: again,
	});
	const remove = useMutation({
		mutationFn: (id: number) =>
			unwrap(client.DELETE("/api/attachments/{id}", { params: { path: { id } } })),
		onSuccess: again,
	});
	const trouble = add.error ?? remove.error;
	return (
		<div className="grid gap-2">
			<ul>
				{(found.data ?? []).map((one: Attachment) => (
					<li key={one.id} className="flex justify-between gap-2">
						<span className="truncate">
							{one.kind}: {one.name}
						</span>
						<button
							type="button"
							className="shrink-0 text-ahead hover:underline"
							aria-label={`Remove ${one.name}`}
							onClick={() => remove.mutate(one.id)}
						>
							remove
						</button>
					</li>
				))}
			</ul>
			<label>
				<span className="block text-[13px] font-semibold">It is a</span>
				<select
					className="select select-sm w-full"
					value={kind}
					onChange={(event) => setKind(KINDS.find((one) => one === event.target.value) ?? "paper")}
				>
					{KINDS.map((one) => (
						<option key={one}>{one}</option>
					))}
				</select>
			</label>
			<label>
				<span className="block text-[13px] font-semibold">PDF, PNG or JPEG, up to 20 MB</span>
				<input
					type="file"
					accept=".pdf,.png,.jpg,.jpeg"
					className="file-input file-input-sm w-full"
					disabled={add.isPending}
					onChange={(event) => {
						const file = event.target.files?.[0];
						if (file) add.mutate(file);
					}}
				/>
			</label>
			{trouble && <Trouble error={trouble} />}
		</div>
	);
}

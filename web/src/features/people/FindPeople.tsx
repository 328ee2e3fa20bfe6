import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { foundLink } from "../../question/model/found";
import { Trouble } from "../../ui/Trouble";
import type { KeptList } from "./useLists";

/** Find somebody, as one types; who was opened lately stands first. */
export function FindPeople({ lists }: { lists: KeptList[] }) {
	const [text, setText] = useState("");
	const found = useQuery({
		queryKey: ["find", text],
		queryFn: () => unwrap(client.GET("/api/find", { params: { query: { text } } })),
		placeholderData: keepPreviousData,
		// Who was opened lately is another each time.
		staleTime: 0,
	});
	const items = found.data?.found ?? [];
	return (
		<div className="mx-auto w-full max-w-2xl p-6">
			<h1 className="mb-3 text-xl font-bold">People</h1>
			<label className="block">
				<span className="text-[13px] font-semibold">
					Find a student by any part of name or number; a class, a group, a list, a test
				</span>
				<input
					className="input w-full"
					value={text}
					// biome-ignore lint/a11y/noAutofocus: the page is there to type into
					autoFocus
					onChange={(event) => setText(event.target.value)}
				/>
			</label>
			{found.isError && <Trouble error={found.error} />}
			<p className="mt-4 mb-1 text-xs font-semibold text-muted">
				{text.trim() ? "Found" : "Opened lately"}
			</p>
			<ul aria-label="Found" aria-busy={found.isFetching}>
				{items.map((item) => (
					<li key={`${item.kind} ${item.id}`} className="border-b border-line/70">
						<Link
							{...foundLink(item)}
							className="flex items-baseline gap-2 px-2 py-1.5 hover:bg-wash"
						>
							<span className="w-16 shrink-0 text-xs text-muted">{item.kind}</span>
							<b>{item.label}</b>
							<span className="ml-auto text-[13px] text-muted">{item.detail}</span>
						</Link>
					</li>
				))}
			</ul>
			{found.isSuccess && items.length === 0 && (
				<p className="px-2 py-1 text-muted">
					{text.trim()
						? "Nothing is called so, as far as you may see."
						: lists.length
							? "Nobody yet. Type a name, or choose a list."
							: "Nobody yet. Type a name; or open any mark in Compare and keep its students as a list."}
				</p>
			)}
		</div>
	);
}

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import {
	Autocomplete,
	Input,
	type Key,
	ListBox,
	ListBoxItem,
	TextField,
} from "react-aria-components";
import { client, type Question, type Schemas, unwrap } from "../../api/client";
import type { Asked } from "../../question/model/address";
import { Trouble } from "../../ui/Trouble";

type Found = Schemas["Found"];

const ANYTHING = "A student, a class, a test, a saved question";

/** Results as one types; the arrows and Enter choose one. */
export function FindPanel({ close }: { close: () => void }) {
	const [text, setText] = useState("");
	const navigate = useNavigate();
	const found = useQuery({
		queryKey: ["find", text],
		queryFn: () => unwrap(client.GET("/api/find", { params: { query: { text } } })),
		enabled: text.trim().length > 0,
		placeholderData: keepPreviousData,
	});
	const items = text.trim() ? (found.data?.found ?? []) : [];
	function go(key: Key): void {
		const item = items.find((one) => keyOf(one) === key);
		if (!item) return;
		close();
		navigate({
			to: "/compare",
			search: (before: { q?: Question }) => searchFor(item, before.q),
		});
	}
	const nothing = text.trim() && found.isSuccess ? "Nothing is called so." : "";
	return (
		<>
			<Autocomplete inputValue={text} onInputChange={setText}>
				<TextField aria-label={ANYTHING} autoFocus>
					<Input
						role="combobox"
						aria-expanded
						className="input input-sm w-full"
						placeholder={ANYTHING}
					/>
				</TextField>
				<ListBox
					aria-label="Found"
					items={items}
					onAction={go}
					className="mt-1 max-h-96 overflow-auto outline-none"
					renderEmptyState={() => (
						<p role="status" className="px-2 text-muted">
							{nothing}
						</p>
					)}
				>
					{(item) => (
						<ListBoxItem
							id={keyOf(item)}
							textValue={item.label}
							className={({ isFocused }) =>
								`flex cursor-pointer items-baseline gap-2 rounded px-2 py-1 outline-none hover:bg-amber-wash ${isFocused ? "pick-focus" : ""}`
							}
						>
							<span className="w-16 shrink-0 text-xs text-muted">{item.kind}</span>
							<span className="font-semibold">{item.label}</span>
							<span className="ml-auto text-xs text-muted">{item.detail}</span>
						</ListBoxItem>
					)}
				</ListBox>
			</Autocomplete>
			{found.isError && <Trouble error={found.error} />}
		</>
	);
}

function keyOf(item: Found): string {
	return `${item.kind} ${item.id}`;
}

/** Where a thing that was found leads: the same question asked about it. */
export function searchFor(item: Found, before: Question | undefined): Asked {
	if (item.question) return { q: item.question };
	if (item.kind === "student") return { q: before, open: item.opens ?? undefined };
	if (item.what) {
		return { q: { ...before, what: [item.what], against: null, show: "spans" } };
	}
	if (!before || !item.who) return { q: before };
	const split: Question["split"] = item.kind === "school" ? [{ field: "class" }] : before.split;
	return { q: { ...before, who: { ...before.who, all: [item.who] }, split } };
}

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { Search } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { client, type Question, unwrap } from "../../api/client";
import { useKeys } from "../../lib/keys";
import { type Found, foundLink } from "../../question/model/found";
import { Trouble } from "../../ui/Trouble";

/** Find a student, a class, a test, a saved question from anywhere: `/` opens it. */
export function Find() {
	const [open, setOpen] = useState(false);
	useKeys({ "/": () => setOpen(true) });
	return (
		<>
			<button
				type="button"
				className="mr-3 flex items-center gap-2 self-center rounded border border-on-bar/30 px-2 py-0.5 text-[13px] text-on-bar/85 hover:border-on-bar"
				onClick={() => setOpen(true)}
			>
				<Search size={13} aria-hidden="true" />
				<span className="max-sm:sr-only">Find</span>
				<kbd className="text-xs max-sm:hidden">/</kbd>
			</button>
			{open && <FindPanel close={() => setOpen(false)} />}
		</>
	);
}

function FindPanel({ close }: { close: () => void }) {
	const [text, setText] = useState("");
	const [at, setAt] = useState(0);
	const input = useRef<HTMLInputElement>(null);
	const navigate = useNavigate();
	// Elsewhere than in a place that asks there is no question to go on from.
	const before: { q?: Question } = useSearch({ strict: false });
	useEffect(() => input.current?.focus(), []);
	const found = useQuery({
		queryKey: ["find", text],
		queryFn: () => unwrap(client.GET("/api/find", { params: { query: { text } } })),
		enabled: text.trim().length > 0,
		placeholderData: keepPreviousData,
	});
	const items = text.trim() ? (found.data?.found ?? []) : [];
	function go(item: Found): void {
		close();
		navigate(foundLink(item, before.q));
	}
	function press(event: React.KeyboardEvent): void {
		const item = items[at];
		if (event.key === "Escape") close();
		else if (event.key === "ArrowDown") setAt(Math.min(at + 1, items.length - 1));
		else if (event.key === "ArrowUp") setAt(Math.max(at - 1, 0));
		else if (event.key === "Enter" && item) go(item);
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
	return (
		<div
			role="dialog"
			aria-label="Find"
			className="absolute top-12 left-1/2 z-40 w-[520px] -translate-x-1/2 rounded-md border border-line bg-paper p-2 text-ink shadow-xl"
		>
			<input
				ref={input}
				className="input input-sm w-full"
				aria-label="Find a student, a class, a test, a saved question"
				placeholder="A student, a class, a test, a saved question"
				role="combobox"
				aria-expanded={items.length > 0}
				aria-controls="found"
				aria-activedescendant={items[at] ? `found-${at}` : undefined}
				value={text}
				onChange={(event) => {
					setText(event.target.value);
					setAt(0);
				}}
				onKeyDown={press}
				onBlur={(event) => {
					if (!event.relatedTarget) close();
				}}
			/>
			<div id="found" role="listbox" aria-label="Found" className="mt-1 max-h-96 overflow-auto">
				{items.map((item, place) => (
					<button
						key={`${item.kind} ${item.id}`}
						id={`found-${place}`}
						type="button"
						role="option"
						tabIndex={-1}
						aria-selected={place === at}
						className={`flex w-full items-baseline gap-2 rounded px-2 py-1 text-left ${place === at ? "bg-amber-wash" : ""}`}
						onMouseEnter={() => setAt(place)}
						onMouseDown={(event) => {
							event.preventDefault();
							go(item);
						}}
					>
						<span className="w-16 shrink-0 text-xs text-muted">{item.kind}</span>
						<span className="font-semibold">{item.label}</span>
						<span className="ml-auto text-xs text-muted">{item.detail}</span>
					</button>
				))}
			</div>
			{text.trim() && found.isSuccess && items.length === 0 && (
				<p role="status" className="px-2 py-1 text-muted">
					Nothing is called so.
				</p>
			)}
			{found.isError && <Trouble error={found.error} />}
		</div>
	);
}

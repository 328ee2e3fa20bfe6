import { useEffect, useMemo, useRef, useState } from "react";
import {
	Autocomplete,
	Collection,
	Header,
	Input,
	ListBox,
	ListBoxItem,
	ListBoxSection,
	ListLayout,
	type Selection,
	TextField,
	Virtualizer,
} from "react-aria-components";

/** One line of a list to pick from. */
export interface Pick {
	key: string;
	words: string;
	/** Said small at its end. */
	aside?: string;
	chosen: boolean;
	/** One of several that may hold at once: it has a box to tick. */
	ticks?: boolean;
	/** Why it cannot be picked. */
	why?: string;
	/** The heading that it stands under. */
	group?: string;
	/** Further words that find it. */
	also?: string;
	pick: () => void;
}

interface Props {
	label: string;
	picks: Pick[];
	/** The longest that the list grows, in pixels. */
	height?: number;
	/** What is said where nothing is found. */
	nothing?: string;
	/** The keys go to it as soon as it is there. */
	focus?: boolean;
}

const SEARCHED = 12;
/** From here on only the lines in view are drawn. */
const DRAWN_AS_NEEDED = 120;
const LINE = 30;

/** Lines to pick from, with a search where there are many; by keyboard like any list box. */
export function PickList(props: Props) {
	const { label, picks, height = 256, nothing = "Nothing is called so.", focus = false } = props;
	const [search, setSearch] = useState("");
	const shown = useMemo(() => found(picks, search), [picks, search]);
	const searched = picks.length > SEARCHED;
	const list = <Lines {...{ label, height, nothing }} picks={shown} focus={focus && !searched} />;
	if (!searched) return list;
	return (
		<div>
			<Autocomplete inputValue={search} onInputChange={setSearch}>
				<TextField aria-label={`Search ${label}`} autoFocus={focus} className="mb-1">
					<Input
						role="combobox"
						aria-expanded
						className="input input-sm w-full"
						placeholder={`Search ${picks.length}`}
					/>
				</TextField>
				{list}
			</Autocomplete>
		</div>
	);
}

/** Every word said must occur, in any order, whatever its accents. */
export function found(picks: Pick[], search: string): Pick[] {
	const words = plain(search).split(/\s+/).filter(Boolean);
	if (words.length === 0) return picks;
	return picks.filter((one) => {
		const text = plain(`${one.words} ${one.group ?? ""} ${one.also ?? ""}`);
		return words.every((word) => text.includes(word));
	});
}

/** Letters that are no letter with an accent, as somebody types them who has not got them. */
const TYPED: Record<string, string> = {
	æ: "ae",
	œ: "oe",
	ø: "o",
	ß: "ss",
	ł: "l",
	đ: "d",
	ð: "d",
	þ: "th",
	ı: "i",
};

function plain(text: string): string {
	const bare = text
		.normalize("NFD")
		.replace(/\p{Diacritic}/gu, "")
		.toLowerCase();
	return bare.replace(/[æœøßłđðþı]/g, (letter) => TYPED[letter] ?? letter);
}

interface Section {
	key: string;
	picks: Pick[];
}

/** Lines under their headings, which come in the order of their first lines. */
export function sections(picks: Pick[]): Section[] {
	const out = new Map<string, Section>();
	for (const pick of picks) {
		const key = pick.group ?? "";
		const held = out.get(key) ?? { key, picks: [] };
		held.picks.push(pick);
		out.set(key, held);
	}
	return [...out.values()];
}

function Lines({ label, picks, height, nothing, focus }: Required<Props>) {
	const common = {
		"aria-label": label,
		selectionMode: "multiple",
		ref: useFocus(focus),
		// Esc closes what the list stands in; it takes nothing back.
		escapeKeyBehavior: "none",
		selectedKeys: picks.filter((one) => one.chosen).map((one) => one.key),
		disabledKeys: picks.filter((one) => one.why).map((one) => one.key),
		onSelectionChange: (after: Selection) => {
			const picked = picks.find(
				(one) => one.chosen !== (after === "all" || after.has(one.key)) && !one.why,
			);
			picked?.pick();
		},
		style: { maxHeight: height },
		// Lines that are drawn as needed have one height; others show all of their words.
		className: `overflow-auto outline-none ${picks.length > DRAWN_AS_NEEDED ? "[&_.pick-words]:truncate" : ""}`,
		renderEmptyState: () => <p className="px-2 text-muted">{nothing}</p>,
	} as const;
	const body = picks.some((one) => one.group) ? (
		<ListBox {...common} items={sections(picks)}>
			{(section) => (
				<ListBoxSection id={`under ${section.key}`}>
					{section.key && (
						<Header className="px-2 pt-2 pb-0.5 text-xs font-semibold text-muted">
							{section.key}
						</Header>
					)}
					<Collection items={section.picks}>{Line}</Collection>
				</ListBoxSection>
			)}
		</ListBox>
	) : (
		<ListBox {...common} items={picks}>
			{Line}
		</ListBox>
	);
	if (picks.length <= DRAWN_AS_NEEDED) return body;
	return (
		<Virtualizer layout={ListLayout} layoutOptions={{ rowHeight: LINE, headingHeight: LINE }}>
			{body}
		</Virtualizer>
	);
}

/** Puts the keys on the chosen line, or on the first, as soon as there is one: a list fills itself
 * only after it is there. Once they are in it, what it stands in leaves them there. */
function useFocus(wanted: boolean) {
	const list = useRef<HTMLDivElement>(null);
	useEffect(() => {
		if (!wanted) return;
		let frame = 0;
		const stop = () => cancelAnimationFrame(frame);
		function look(): void {
			const chosen = list.current?.querySelector<HTMLElement>('[aria-selected="true"]');
			const line = chosen ?? list.current?.querySelector<HTMLElement>('[role="option"]');
			line?.focus();
			if (!line || document.activeElement !== line) frame = requestAnimationFrame(look);
		}
		frame = requestAnimationFrame(look);
		window.addEventListener("keydown", stop, { capture: true, once: true });
		window.addEventListener("pointerdown", stop, { capture: true, once: true });
		return () => {
			stop();
			window.removeEventListener("keydown", stop, { capture: true });
			window.removeEventListener("pointerdown", stop, { capture: true });
		};
	}, [wanted]);
	return list;
}

function Line(pick: Pick) {
	return (
		<ListBoxItem
			key={pick.key}
			id={pick.key}
			textValue={pick.words}
			className={({ isFocused }) =>
				`flex items-baseline gap-2 rounded px-2 py-1 outline-none ${pick.why ? "text-muted" : "cursor-pointer hover:bg-amber-wash"} ${pick.chosen && !pick.ticks ? "bg-amber-wash font-semibold" : ""} ${isFocused ? "pick-focus" : ""}`
			}
		>
			{pick.ticks && <Box ticked={pick.chosen} />}
			<span className="min-w-0">
				<span className="pick-words block" title={pick.words}>
					{pick.words}
				</span>
				{pick.why && <span className="block text-xs">{pick.why}</span>}
			</span>
			{pick.aside && <span className="ml-auto shrink-0 text-xs text-muted">{pick.aside}</span>}
		</ListBoxItem>
	);
}

function Box({ ticked }: { ticked: boolean }) {
	return (
		<svg
			width="13"
			height="13"
			viewBox="0 0 13 13"
			aria-hidden="true"
			className="shrink-0 self-center"
		>
			<rect
				x="0.5"
				y="0.5"
				width="12"
				height="12"
				rx="2.5"
				fill={ticked ? "var(--color-ahead)" : "var(--color-paper)"}
				stroke={ticked ? "var(--color-ahead)" : "var(--color-muted)"}
			/>
			{ticked && (
				<path d="M3 6.5L5.5 9L10 4" fill="none" stroke="var(--color-paper)" strokeWidth="1.8" />
			)}
		</svg>
	);
}

import type { Schemas } from "../../api/client";

interface Props {
	body: Schemas["ItemsBody"];
	front: number;
	row: Schemas["Looked"];
}

/** So many groups stand beside each other. */
const BESIDE = 2;
const WIDE = "max-w-xl min-w-96 flex-[2] grid-cols-2";
const NARROW = "max-w-72 min-w-48 flex-1";

/** What they wrote, like texts counted as one; the group in front beside the next. */
export function Written({ body, front, row }: Props) {
	const written = row.written ?? [];
	if (!written.some((one) => one.n > 0)) return null;
	// Beside the group in front the next one that wrote anything.
	const others = written.map((_, at) => at).filter((at) => at !== front && written[at]?.n);
	const shown = [front, ...others].slice(0, BESIDE);
	return (
		<div className={`grid gap-x-6 ${shown.length > 1 ? WIDE : NARROW}`}>
			{shown.map((at) => {
				const one = written[at];
				const group = body.groups[at];
				if (!one || !group) return null;
				return (
					<div key={group.key} className="text-[13px]">
						<h3 className="font-semibold">
							{group.label} wrote <span className="font-normal text-muted">({one.n})</span>
						</h3>
						<ul>
							{one.texts.map((text) => (
								<li key={text.text}>
									“{text.text}”{" "}
									<span className="whitespace-nowrap text-muted">
										· {text.n} {text.n > 1 && "like this"}
									</span>
								</li>
							))}
						</ul>
						{(one.others ?? 0) > 0 && <p className="text-muted">and {one.others} more</p>}
						{one.n === 0 && <p className="text-muted">Nothing.</p>}
					</div>
				);
			})}
		</div>
	);
}

import type { Column, Sorted } from "./DataTable";

const SIDE = { left: "text-left", right: "text-right", centre: "text-center" };

interface Props<T> {
	column: Column<T>;
	/** How one looks that stays in view. */
	pinned?: string;
	sorted?: Sorted | readonly Sorted[] | undefined;
	/** `more`: besides what it is sorted by already. */
	sort?: ((by: Sorted, more: boolean) => void) | undefined;
}

/** The head of a column; one that sorts says how, and in which place among several. */
export function TableHead<T>({ column, pinned = "", sorted, sort }: Props<T>) {
	const all = sorted === undefined ? [] : Array.isArray(sorted) ? sorted : [sorted as Sorted];
	const place = all.findIndex((one) => one.by === column.key);
	const mine = all[place]?.dir;
	const look = `px-1.5 py-1.5 align-bottom font-semibold text-muted ${SIDE[column.side ?? "right"]} ${column.edge ? "border-l border-line" : ""} ${pinned}`;
	const next = mine === "asc" ? "desc" : "asc";
	const words = (
		<>
			{column.label}
			{mine && <span aria-hidden="true">{mine === "asc" ? " ↑" : " ↓"}</span>}
			{mine && all.length > 1 && <sup>{place + 1}</sup>}
		</>
	);
	return (
		<th
			scope="col"
			style={column.width ? { width: column.width } : undefined}
			className={look}
			aria-sort={mine && (mine === "asc" ? "ascending" : "descending")}
		>
			{sort && column.sorts !== false ? (
				<button
					type="button"
					className="text-inherit hover:text-ink"
					style={{ textAlign: "inherit" }}
					onClick={(event) => sort({ by: column.key, dir: next }, event.shiftKey)}
				>
					{words}
				</button>
			) : (
				words
			)}
		</th>
	);
}

import { createColumnHelper, tableFeatures, useTable } from "@tanstack/react-table";
import { Fragment, type ReactNode, useMemo, useRef } from "react";
import { useFitting } from "../lib/useFitting";
import { usePrinting } from "../lib/usePrinting";
import { TableHead } from "./TableHead";
import { useColumnsInView } from "./useColumnsInView";
import { OVERSCAN_WIDE, useRowsInView } from "./useRowsInView";

export interface Sorted {
	by: string;
	dir: "asc" | "desc";
}

export interface Column<T> {
	key: string;
	/** Its name; a column without one says what it is to a reader of the screen alone. */
	label: ReactNode;
	/** The heading above several columns that stand side by side. */
	group?: string;
	cell: (row: T, at: number) => ReactNode;
	/** Words stand at the left, figures at the right. */
	side?: "left" | "right" | "centre";
	/** Where it begins a new part of the table. */
	edge?: boolean;
	width?: number;
	className?: string;
	/** How a cell of it looks, by its row. */
	look?: (row: T) => string;
	/** Whether its head sorts; if nothing is said, it does where the table sorts. */
	sorts?: boolean;
}

interface Props<T> {
	caption: string;
	columns: Column<T>[];
	rows: readonly T[];
	keyOf: (row: T, at: number) => string;
	/** The first column names the row. */
	named?: boolean;
	sorted?: Sorted | readonly Sorted[] | undefined;
	/** Sorts by a column, `more`: besides what it is sorted by already; the rows come back sorted
	 * from where they come from. */
	sort?: (by: Sorted, more: boolean) => void;
	rowClass?: (row: T) => string;
	/** The heading that a row stands under, above the first of them. */
	under?: (row: T) => string;
	/** What stands beside that heading, in the column's own place. */
	underCell?: (row: T, key: string) => ReactNode;
	/** The last row: what a column comes to. */
	foot?: (key: string) => ReactNode;
	/** What stands below a row, over its whole width. */
	below?: (row: T) => ReactNode;
	className?: string;
	/** What was said is being taken in. */
	busy?: boolean;
}

const features = tableFeatures({});
const ROW = 30;
/** From here on columns have a width of their own, so that a row that comes into view moves none. */
const MANY_COLUMNS = 40;
/** The first column stays in view beside those that are scrolled past. */
const PINNED = "sticky left-0 z-[2] bg-paper";
const SIDE = { left: "text-left", right: "text-right", centre: "text-center" };

/** Rows and columns; of many rows those in view are drawn, on paper all. */
export function DataTable<T extends object>(props: Props<T>) {
	const {
		caption,
		columns,
		rows,
		keyOf,
		named = true,
		rowClass,
		under,
		below,
		className = "",
	} = props;
	const table = useTable({
		features,
		columns: useMemo(() => columnsOf(columns), [columns]),
		data: rows,
		getRowId: keyOf,
	});
	const all = table.getRowModel().rows;
	const wide = columns.length > MANY_COLUMNS;
	const view = useRowsInView(all.length, () => ROW, wide ? OVERSCAN_WIDE : undefined);
	const heads = table.getHeaderGroups();
	// Browsers repeat the heads of a table on every sheet where no button is in them.
	const printing = usePrinting();
	const drawn = useRef<HTMLTableElement>(null);
	useFitting(drawn, printing);
	const set = wide && !printing;
	const widths = useMemo(() => columns.map(widthIn), [columns]);
	const { from, to } = useColumnsInView(view.frame, widths, set);
	const cells = useMemo(() => cellsOf(columns, named, from, to), [columns, named, from, to]);
	const { sorted, sort, foot: comesTo } = props;
	// Neither changes while rows come into view.
	const head = useMemo(
		() => <Head {...{ heads, columns, sorted }} sort={printing ? undefined : sort} />,
		[heads, columns, sorted, sort, printing],
	);
	const foot = useMemo(
		() => comesTo && <Foot columns={columns} foot={comesTo} />,
		[columns, comesTo],
	);
	return (
		<div ref={view.frame} className={`print-flow min-h-0 flex-1 overflow-auto ${className}`}>
			<table
				ref={drawn}
				className={`text-[13px] ${set ? "table-fixed" : "w-full"}`}
				style={set ? { width: widths.reduce((sum, one) => sum + one, 0) } : undefined}
				aria-colcount={columns.length}
				aria-rowcount={all.length + heads.length}
				aria-busy={props.busy}
			>
				<caption className="sr-only">{caption}</caption>
				{set && (
					<colgroup>
						{columns.map((column, at) => (
							<col key={column.key} style={{ width: widths[at] }} />
						))}
					</colgroup>
				)}
				{head}
				<tbody>
					<Gap height={view.before} />
					{view.rows.map((at) => {
						const row = all[at];
						if (!row) return null;
						const more = below?.(row.original);
						const before = all[at - 1]?.original;
						const head = under?.(row.original);
						const begins = head && (!before || under?.(before) !== head);
						return (
							<Fragment key={row.id}>
								{begins && <Under head={head} row={row.original} {...{ columns, props }} />}
								<tr
									data-index={at}
									ref={view.measure}
									aria-rowindex={at + heads.length + 1}
									className={`border-b border-line/70 bg-paper ${rowClass?.(row.original) ?? ""}`}
								>
									{cells(row.original, at)}
								</tr>
								{more && (
									<tr className="border-b border-line/60 bg-wash">
										<td colSpan={columns.length} className="px-3 py-2">
											{more}
										</td>
									</tr>
								)}
							</Fragment>
						);
					})}
					<Gap height={view.after} />
				</tbody>
				{foot}
			</table>
		</div>
	);
}

interface HeadProps<T> {
	heads: ReturnType<ReturnType<typeof useTable<typeof features, T & object>>["getHeaderGroups"]>;
	columns: Column<T>[];
	sorted: Props<T>["sorted"];
	sort: Props<T>["sort"];
}

/** The heads of columns, with the headings above those that stand together. */
function Head<T extends object>({ heads, columns, sorted, sort }: HeadProps<T>) {
	const about = new Map(columns.map((one) => [one.key, one]));
	return (
		<thead className="sticky top-0 z-[3] bg-paper">
			{heads.map((group) => (
				<tr key={group.id} className="border-b border-line">
					{group.headers.map((head, place) => {
						const column = about.get(head.column.id);
						const pinned = place === 0 ? PINNED : "";
						if (head.isPlaceholder) return <td key={head.id} className={pinned} />;
						if (!column)
							return (
								<th
									key={head.id}
									scope="colgroup"
									colSpan={head.colSpan}
									className="border-l border-line px-1.5 text-left text-xs font-semibold text-muted first:border-0"
								>
									{String(head.column.columnDef.header)}
								</th>
							);
						return <TableHead key={head.id} pinned={pinned} {...{ column, sorted, sort }} />;
					})}
				</tr>
			))}
		</thead>
	);
}

/** What the columns come to. */
function Foot<T>({ columns, foot }: { columns: Column<T>[]; foot: (key: string) => ReactNode }) {
	return (
		<tfoot className="sticky bottom-0 z-[2] bg-wash">
			<tr className="border-t border-line bg-wash">
				{columns.map((column, n) => (
					<Cell key={column.key} column={column} name={n === 0} look="">
						{foot(column.key)}
					</Cell>
				))}
			</tr>
		</tfoot>
	);
}

/** How wide a column of a wide table is: names, words, figures. */
function widthIn(column: Pick<Column<never>, "side" | "width">, at: number): number {
	return column.width ?? (at === 0 ? 176 : column.side === "left" ? 104 : 64);
}

/** The cells of a row, drawn once: who scrolls past many draws the new ones alone. Beside the first
 * those of the columns in view; the others leave their room. */
function cellsOf<T extends object>(columns: Column<T>[], named: boolean, from: number, to: number) {
	const after = columns.length - 1 - to;
	const drawn = new WeakMap<T, ReactNode>();
	return (row: T, at: number): ReactNode => {
		const held = drawn.get(row);
		if (held) return held;
		const made = columns.flatMap((column, n) => {
			if (n > 0 && (n < from || n > to)) return [];
			return (
				<Cell
					key={column.key}
					column={column}
					name={named && n === 0}
					look={column.look?.(row) ?? ""}
					place={n + 1}
				>
					{column.cell(row, at)}
				</Cell>
			);
		});
		if (from > 1) made.splice(1, 0, <td key="before" colSpan={from - 1} />);
		if (after > 0) made.push(<td key="after" colSpan={after} />);
		drawn.set(row, made);
		return made;
	};
}

/** Rows that are not drawn leave their room. */
function Gap({ height }: { height: number }) {
	return height > 0 ? (
		<tr>
			<td style={{ height }} />
		</tr>
	) : null;
}

interface UnderProps<T extends object> {
	head: string;
	row: T;
	columns: Column<T>[];
	props: Props<T>;
}

/** The heading that rows stand under, over the whole width or with what its columns come to. */
function Under<T extends object>({ head, row, columns, props }: UnderProps<T>) {
	const { underCell } = props;
	if (!underCell)
		return (
			<tr>
				<th scope="rowgroup" colSpan={columns.length} className="pt-2 text-left font-bold">
					{head}
				</th>
			</tr>
		);
	return (
		<tr className="border-b border-line bg-wash">
			<th scope="rowgroup" className="px-1.5 py-1 text-left font-bold">
				{head}
			</th>
			{columns.slice(1).map((column) => (
				<Cell key={column.key} column={column} name={false} look="">
					{underCell(row, column.key)}
				</Cell>
			))}
		</tr>
	);
}

interface CellProps {
	column: Pick<Column<never>, "side" | "edge" | "className">;
	name: boolean;
	look: string;
	/** Its place among all columns, drawn or not. */
	place?: number;
	children: ReactNode;
}

function Cell({ column, name, look: own, place, children }: CellProps) {
	const look = `px-1.5 py-1 ${SIDE[column.side ?? "right"]} ${column.edge ? "border-l border-line" : ""} ${column.className ?? ""} ${own}`;
	if (!name)
		return (
			<td className={look} aria-colindex={place}>
				{children}
			</td>
		);
	return (
		<th
			scope="row"
			aria-colindex={place}
			className={`sticky left-0 z-[1] bg-inherit font-semibold ${look}`}
		>
			{children}
		</th>
	);
}

/** Columns side by side under one heading become one group. */
function columnsOf<T extends object>(columns: Column<T>[]) {
	const helper = createColumnHelper<typeof features, T>();
	const leaf = (one: Column<T>) =>
		helper.display({ id: one.key, header: () => one.label, cell: () => null });
	const out: (ReturnType<typeof leaf> | ReturnType<typeof helper.group>)[] = [];
	for (let at = 0; at < columns.length; ) {
		const first = columns[at] as Column<T>;
		let end = at + 1;
		if (first.group) while (columns[end]?.group === first.group) end += 1;
		const part = columns.slice(at, end).map(leaf);
		if (first.group)
			out.push(helper.group({ id: `${first.group} ${at}`, header: first.group, columns: part }));
		else out.push(...part);
		at = end;
	}
	return out;
}

import type { Open, Schemas } from "../../api/client";
import { percent } from "../../lib/numbers";
import { DRAWN } from "./layout";
import { GroupShape } from "./marks";

interface Props {
	body: Schemas["ItemsBody"];
	front: number;
	row: Schemas["Looked"];
	open: (mark: Open) => void;
}

/** So wide is a bar of everybody. */
const WIDE = 70;
const THIRDS = ["lowest", "middle", "best"];

/** What was chosen: a bar for each group, and the share of each third of the test. */
export function Options({ body, front, row, open }: Props) {
	const drawn = [front, ...body.groups.map((_, at) => at).filter((at) => at !== front)].slice(
		0,
		DRAWN,
	);
	return (
		<table className="text-left text-[13px]">
			<caption className="sr-only">Which option was chosen</caption>
			<thead className="text-[11px] text-muted">
				<tr>
					<th scope="col" className="pr-3 font-semibold">
						option
					</th>
					{drawn.map((at, shape) => (
						<th key={body.groups[at]?.key} scope="col" className="pr-3 font-semibold">
							<span className="flex items-center gap-1">
								<svg width="14" height="14" aria-hidden="true">
									<GroupShape shape={shape} x={7} y={7} paint="var(--color-ink)" />
								</svg>
								{body.groups[at]?.label}
							</span>
						</th>
					))}
					{THIRDS.map((name, n) => (
						<th key={name} scope="col" className="pl-2 text-right font-semibold">
							{name}
							<span className="block font-normal">third, {row.thirds?.[n] ?? 0}</span>
						</th>
					))}
				</tr>
			</thead>
			<tbody>
				{(row.options ?? []).map((one) => (
					<tr key={one.option} className={one.right ? "font-bold" : ""}>
						<th scope="row" className={`max-w-48 pr-3 ${one.right ? "font-bold" : "font-normal"}`}>
							{one.option} {one.says}
							{one.right && <span className="text-ahead"> ✓</span>}
							{one.right && <span className="sr-only"> right by the key</span>}
							{one.option === row.instead && (
								<span className="text-behind"> the best choose this</span>
							)}
						</th>
						{drawn.map((at, shape) => (
							<td key={body.groups[at]?.key} className="pr-3">
								<Bar
									one={one.shares[at]}
									first={shape === 0}
									right={one.right ?? false}
									open={open}
								/>
							</td>
						))}
						{one.thirds.map((third, n) => (
							<td
								key={THIRDS[n]}
								className="pl-2 text-right font-normal text-muted"
								title={interval(third)}
							>
								{percent(third.share)}
								<span className="sr-only">, {interval(third)}</span>
							</td>
						))}
					</tr>
				))}
			</tbody>
		</table>
	);
}

/** How far another class like it could be from a share. */
export function interval(one: { low?: number | null; high?: number | null }): string {
	return `95% interval ${percent(one.low)} to ${percent(one.high)}`;
}

interface BarProps {
	one: Schemas["OptionShare"] | undefined;
	/** Of the group in front. */
	first: boolean;
	right: boolean;
	open: (mark: Open) => void;
}

/** A share as a bar; pressed, its students. Dashed where the option is not right. */
function Bar({ one, first, right, open }: BarProps) {
	if (one?.share == null) return <span className="text-muted">–</span>;
	const { opens } = one;
	const width = first ? WIDE : 0.6 * WIDE;
	const words = (
		<span className="flex items-center gap-1.5" title={opens ? undefined : interval(one)}>
			<svg width={width} height="12" aria-hidden="true">
				<rect
					width={Math.max(one.share * width, 1)}
					height="12"
					fill={right ? "var(--color-ahead)" : first ? "var(--color-behind)" : "var(--color-amber)"}
					opacity={first ? 1 : 0.75}
				/>
			</svg>
			{percent(one.share)}
			<span className="text-[11px] font-normal text-muted">{one.n}</span>
			<span className="sr-only">, {interval(one)}</span>
		</span>
	);
	if (!opens || one.n === 0) return words;
	return (
		<button
			type="button"
			className="hover:underline"
			title={`Its students · ${interval(one)}`}
			onClick={() => open(opens)}
		>
			{words}
		</button>
	);
}

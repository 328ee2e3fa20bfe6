import { figure } from "../../lib/numbers";
import { useRowsInView } from "../../ui/useRowsInView";
import { dashed } from "./Curves";
import { smallLayout } from "./layout";
import type { Drawing } from "./Spread";

const WIDTH = 168;
const HEIGHT = 62;
const GAP = 12;
const CELL = HEIGHT + 34;

/** A small histogram of every group, all to one scale, with all of them together behind each. */
export function Multiples({ body, width, zoom, open }: Drawing) {
	const across = Math.max(1, Math.floor((width + GAP) / (WIDTH + GAP)));
	const layout = smallLayout(body, WIDTH, HEIGHT, zoom);
	const view = useRowsInView(Math.ceil(body.curves.length / across), () => CELL);
	return (
		<>
			<div ref={view.frame} className="print-flow min-h-[200px] flex-1 overflow-auto">
				<div style={{ height: view.before }} />
				<ul className="flex flex-wrap" style={{ columnGap: GAP }}>
					{view.rows.flatMap((row) =>
						body.curves.slice(row * across, (row + 1) * across).map((curve, n) => {
							const at = row * across + n;
							return (
								<li
									key={curve.key}
									data-index={n === 0 ? row : undefined}
									aria-posinset={at + 1}
									aria-setsize={body.curves.length}
									style={{ width: WIDTH, height: CELL }}
								>
									<Picture
										{...{ curve, open }}
										small={layout.pictures[at]}
										cuts={body.cuts}
										x={layout.x}
									/>
								</li>
							);
						}),
					)}
				</ul>
				<div style={{ height: view.after }} />
			</div>
			<figcaption className="text-center text-xs text-muted">
				{body.unit}, {figure(body.edges[0], 0)} to {figure(body.edges.at(-1), 0)} · line: this
				group, grey: all groups together · lowest median first
			</figcaption>
		</>
	);
}

interface PictureProps {
	curve: Drawing["body"]["curves"][number];
	small: ReturnType<typeof smallLayout>["pictures"][number] | undefined;
	cuts: Drawing["body"]["cuts"];
	x: (value: number) => number;
	open: Drawing["open"];
}

function Picture({ curve, small, cuts, x, open }: PictureProps) {
	const { opens } = curve;
	const words = curve.median == null ? "◇ too few" : `median ${figure(curve.median)}`;
	const inside = (
		<>
			<svg width={WIDTH} height={HEIGHT} aria-hidden="true" className="block">
				<path d={small?.behind} fill="var(--color-line)" opacity="0.7" />
				{cuts.map((cut) => (
					<path
						key={cut.label}
						d={`M${x(cut.at)} 0V${HEIGHT}`}
						stroke="var(--color-amber)"
						strokeDasharray={dashed(cut)}
					/>
				))}
				<path d={small?.d} fill="none" stroke="var(--color-ink)" strokeWidth="1.500" />
			</svg>
			<span className="flex items-baseline gap-1 text-xs">
				<span className="truncate font-semibold">{curve.label}</span>
				<span className="ml-auto shrink-0 text-muted">
					{words}, {figure(curve.n, 0)}
					<span className="sr-only"> counted, {figure(curve.missing, 0)} missing</span>
				</span>
			</span>
		</>
	);
	if (!opens) return <div className="p-0.5">{inside}</div>;
	return (
		<button
			type="button"
			title={`${curve.label}: ${words}, ${figure(curve.n, 0)} counted, ${figure(curve.missing, 0)} missing`}
			className="block w-full rounded p-0.5 text-left hover:bg-amber/10"
			onClick={() => open(opens)}
		>
			{inside}
		</button>
	);
}

import { figure, range } from "../../lib/numbers";
import { Cell, type Figures, PublishedTable } from "./PublishedTable";

const WIDTH = 360;
const HEIGHT = 22;
const PAD = 8;

/** Means with their intervals on one axis. */
export function FigureRows({ figures }: { figures: Figures }) {
	const shown = figures.rows.filter((row) => row.mean != null);
	const ends = shown.flatMap((row) => [row.low ?? row.mean ?? 0, row.high ?? row.mean ?? 0]);
	const least = Math.min(...ends);
	const most = Math.max(...ends);
	const at = (value: number) =>
		most > least ? PAD + ((value - least) / (most - least)) * (WIDTH - 2 * PAD) : WIDTH / 2;
	return (
		<PublishedTable
			figures={figures}
			heads={["mean", "interval", "spread"]}
			axis={
				shown.length > 0 && (
					<span className="flex justify-between">
						<span>{figure(least)}</span>
						<span>{figure(most)}</span>
					</span>
				)
			}
			cells={(row) => (
				<>
					<Cell>{figure(row.mean)}</Cell>
					<Cell>{range(row.low, row.high) || "none"}</Cell>
					<Cell>{figure(row.sd)}</Cell>
					<td className="pl-6">
						<svg width={WIDTH} height={HEIGHT} aria-hidden="true">
							{row.low != null && row.high != null && (
								<path
									d={`M${at(row.low)} ${HEIGHT / 2}H${at(row.high)}`}
									stroke="var(--color-ink)"
									strokeWidth="1.5"
								/>
							)}
							{row.mean != null && (
								<circle cx={at(row.mean)} cy={HEIGHT / 2} r="4" fill="var(--color-ink)" />
							)}
						</svg>
					</td>
				</>
			)}
		/>
	);
}

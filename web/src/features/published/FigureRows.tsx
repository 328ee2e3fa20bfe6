import type { Schemas } from "../../api/client";
import { figure } from "../../lib/numbers";
import { ALL, HeadCell, Held, Numbers } from "./cells";

type Figures = Schemas["PublishedFigures"];
const WIDTH = 360;
const HEIGHT = 22;
const PAD = 8;

/** Means with their intervals on one axis. */
export function FigureRows({ figures }: { figures: Figures }) {
	const shown = figures.rows.filter((row) => row.mean != null);
	const ends = shown.flatMap((row) => [row.low ?? row.mean, row.high ?? row.mean]) as number[];
	const least = Math.min(...ends);
	const most = Math.max(...ends);
	const at = (value: number) =>
		most > least ? PAD + ((value - least) / (most - least)) * (WIDTH - 2 * PAD) : WIDTH / 2;
	return (
		<table className="text-[13px] [&_td]:py-1 [&_th]:py-1">
			<caption className="sr-only">{figures.label}</caption>
			<thead className="border-b border-line text-muted">
				<tr>
					<HeadCell words="Students" left />
					<HeadCell words="n" />
					<HeadCell words="missing" />
					<HeadCell words="mean" />
					<HeadCell words="interval" />
					<HeadCell words="spread" />
					<th scope="col" className="pl-6 font-normal">
						{shown.length > 0 && (
							<span className="flex justify-between">
								<span>{figure(least)}</span>
								<span>{figure(most)}</span>
							</span>
						)}
					</th>
				</tr>
			</thead>
			<tbody>
				{figures.rows.map((row) => (
					<tr
						key={row.label}
						className={row.label === ALL ? "border-b border-line font-semibold" : ""}
					>
						<th scope="row" className="pr-6 text-left">
							{row.label}
						</th>
						{row.held ? (
							<Held why={row.held} columns={6} />
						) : (
							<>
								<Numbers n={row.n} missing={row.missing} />
								<td className="pr-6 text-right">{figure(row.mean ?? null)}</td>
								<td className="pr-6 text-right">
									{row.low == null || row.high == null
										? "none"
										: `${figure(row.low)} to ${figure(row.high)}`}
								</td>
								<td className="pr-6 text-right">{figure(row.sd ?? null)}</td>
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
					</tr>
				))}
			</tbody>
		</table>
	);
}

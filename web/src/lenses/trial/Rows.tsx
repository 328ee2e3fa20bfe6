import { ends, linear } from "../../charts/scale";
import { colour, meaning, SYMBOL, tone } from "../../lib/verdicts";
import type { LensProps } from "../../question/model/lens";
import { type Body, said } from "./model";

const NAME = 104;
const VALUE = 112;
const ROW = 26;

/** Every group with the try; a ring where it stands without. */
export function Rows({
	body,
	width,
	open,
}: {
	body: Body;
	width: number;
	open: LensProps["open"];
}) {
	const rows = body.rows.filter((row) => row.now != null);
	if (!rows.length) return null;
	const wide = Math.max(90, width - NAME - 36 - VALUE - 26);
	const held = rows.flatMap((row) => [row.now, row.tried, row.low, row.high]);
	const x = linear(ends(held.filter((one) => one != null)), [8, wide - 8]);
	return (
		<section aria-label="All groups, with the try" className="mt-3">
			<h2 className="text-xs font-semibold text-muted">All groups, with the try; ring: without</h2>
			<ul>
				{rows.map((row) => {
					const { opens } = row;
					const verdict = row.verdict ?? "none";
					const [now, tried] = [row.now ?? 0, row.tried ?? 0];
					return (
						<li
							key={row.key}
							className="grid items-center gap-x-2"
							style={{ gridTemplateColumns: `${NAME}px 36px ${wide}px 1fr`, height: ROW }}
						>
							<button
								type="button"
								className="truncate text-left text-[13px] font-semibold hover:underline"
								onClick={() => opens && open(opens)}
							>
								{row.label}
							</button>
							<span className="text-right text-[13px] text-muted">{row.n}</span>
							<svg width={wide} height={ROW} aria-hidden="true">
								{body.wanted != null && (
									<path
										d={`M${x(body.wanted)} 0V${ROW}`}
										stroke="var(--color-muted)"
										strokeWidth="1.500"
									/>
								)}
								{row.low != null && row.high != null && (
									<rect
										x={x(row.low)}
										y={ROW / 2 - 5}
										width={Math.max(1, x(row.high) - x(row.low))}
										height="10"
										rx="4"
										fill={colour(verdict)}
										opacity="0.25"
									/>
								)}
								<path d={`M${x(now)} ${ROW / 2}H${x(tried)}`} stroke={colour(verdict)} />
								<circle
									cx={x(now)}
									cy={ROW / 2}
									r="4.500"
									fill="var(--color-paper)"
									stroke={colour(row.verdict_now ?? "none")}
									strokeWidth="1.500"
								/>
								<circle cx={x(tried)} cy={ROW / 2} r="4.500" fill={colour(verdict)} />
							</svg>
							<span className="text-[13px] whitespace-nowrap">
								<b className={tone(verdict)}>{said(body, tried)}</b>{" "}
								<span className={tone(verdict)} title={meaning({ verdict })}>
									<span aria-hidden="true">{SYMBOL[verdict]}</span>
									<span className="sr-only">, {meaning({ verdict })}</span>
								</span>
								{(row.moved ?? 0) > 0 && (
									<span className="text-[11px] text-muted"> from {said(body, now)}</span>
								)}
							</span>
						</li>
					);
				})}
			</ul>
		</section>
	);
}

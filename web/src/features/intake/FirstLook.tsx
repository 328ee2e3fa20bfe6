import type { Schemas } from "../../api/client";
import { figure, range } from "../../lib/numbers";

const WIDTH = 280;
const HEIGHT = 60;

/** One score as it would be kept: how it is spread, how many have none. */
export function FirstLook({ look }: { look: Schemas["FirstLook"] }) {
	const steps = look.steps ?? [];
	const edges = look.edges ?? [];
	const most = Math.max(...look.counts, 1);
	const step = WIDTH / Math.max(look.counts.length, 1);
	return (
		<figure className="mb-3" aria-label={`First look: ${look.label}`}>
			<figcaption className="text-[13px] font-semibold">{look.label}</figcaption>
			<svg viewBox={`0 0 ${WIDTH} ${HEIGHT + 2}`} className="w-full" aria-hidden="true">
				{look.counts.map((n, at) => (
					<rect
						// biome-ignore lint/suspicious/noArrayIndexKey: a bar is named by its place
						key={at}
						x={at * step + (steps.length > 0 ? step * 0.15 : 0)}
						y={HEIGHT - (n / most) * (HEIGHT - 2)}
						width={steps.length > 0 ? step * 0.7 : step - 2}
						height={(n / most) * (HEIGHT - 2)}
						fill="var(--color-ahead)"
						opacity="0.75"
					/>
				))}
				<path d={`M0 ${HEIGHT + 0.5}H${WIDTH}`} stroke="var(--color-neither)" />
			</svg>
			{steps.length > 0 ? (
				<dl className="flex text-center text-xs text-muted">
					{steps.map((name, at) => (
						<div key={name} className="min-w-0 flex-1">
							<dt className="truncate" title={name}>
								{name}
							</dt>
							<dd>{figure(look.counts[at], 0)}</dd>
						</div>
					))}
				</dl>
			) : (
				<p className="flex justify-between text-xs text-muted">
					<span>{figure(edges[0], 0)}</span>
					<span>{figure(edges.at(-1), 0)}</span>
				</p>
			)}
			<p className="text-xs text-muted">
				n {figure(look.n, 0)}, {figure(look.missing, 0)} missing
				{look.mean != null && ` · mean ${figure(look.mean)}`}
				{look.low != null && ` (${range(look.low, look.high)})`}
				{look.sd != null && `, sd ${figure(look.sd)}`}
			</p>
		</figure>
	);
}

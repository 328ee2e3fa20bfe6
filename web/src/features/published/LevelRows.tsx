import type { Schemas } from "../../api/client";
import { percent } from "../../lib/numbers";
import { ALL, HeadCell, Held, Numbers } from "./cells";

type Figures = Schemas["PublishedFigures"];

/** Shares of levels, the lowest first. */
export function LevelRows({ figures }: { figures: Figures }) {
	return (
		<table className="text-[13px] [&_td]:py-1 [&_th]:py-1">
			<caption className="sr-only">{figures.label}</caption>
			<thead className="border-b border-line text-muted">
				<tr>
					<HeadCell words="Students" left />
					<HeadCell words="n" />
					<HeadCell words="missing" />
					{figures.steps.map((step) => (
						<HeadCell key={step} words={step} />
					))}
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
							<Held why={row.held} columns={2 + figures.steps.length} />
						) : (
							<>
								<Numbers n={row.n} missing={row.missing} />
								{!row.shares?.length && (
									<td colSpan={figures.steps.length} className="text-muted">
										held back: too few for shares that say nothing of single students
									</td>
								)}
								{(row.shares ?? []).map((share, step) => (
									<Share key={figures.steps[step]} share={share} />
								))}
							</>
						)}
					</tr>
				))}
			</tbody>
		</table>
	);
}

function Share({ share }: { share: number }) {
	return (
		<td className="pr-6 text-right">
			{percent(share)}
			<span className="mt-0.5 block h-1 bg-wash">
				<svg
					width="100%"
					height="4"
					preserveAspectRatio="none"
					viewBox="0 0 100 4"
					aria-hidden="true"
				>
					<rect width={share * 100} height="4" fill="var(--color-ink)" />
				</svg>
			</span>
		</td>
	);
}

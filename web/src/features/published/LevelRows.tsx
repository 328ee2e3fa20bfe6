import { percent } from "../../lib/numbers";
import { Cell, type Figures, PublishedTable } from "./PublishedTable";

/** Shares of levels, the lowest first. */
export function LevelRows({ figures }: { figures: Figures }) {
	return (
		<PublishedTable
			figures={figures}
			heads={figures.steps}
			cells={(row) =>
				row.shares?.length ? (
					row.shares.map((share, step) => <Share key={figures.steps[step]} share={share} />)
				) : (
					<td colSpan={figures.steps.length} className="text-muted">
						held back: too few for shares that say nothing of single students
					</td>
				)
			}
		/>
	);
}

function Share({ share }: { share: number }) {
	return (
		<Cell>
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
		</Cell>
	);
}

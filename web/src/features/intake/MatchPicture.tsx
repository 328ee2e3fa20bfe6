import type { Schemas } from "../../api/client";
import { figure } from "../../lib/numbers";

const WIDTH = 880;
const TALL = 120;
const BAR = 26;

/** The match: roster on the left, file on the right, the band of rows that meet between them. */
export function MatchPicture({ picture }: { picture: Schemas["Picture"] }) {
	const most = Math.max(picture.left_total, picture.right_total, 1);
	const tall = (n: number) => (n > 0 ? Math.max((n / most) * TALL, 4) : 0);
	const band = tall(picture.matched);
	const top = 14;
	const first = picture.left === "Students known so far" && picture.left_total === 0;
	const meets = first
		? "The first roster of this year"
		: `${figure(picture.matched, 0)} matched, one row each`;
	const how = [
		!first && `${figure(picture.by_number, 0)} by student number`,
		picture.by_repair > 0 && `${figure(picture.by_repair, 0)} after restoring lost leading zeros`,
		(picture.by_hand ?? 0) > 0 && `${figure(picture.by_hand, 0)} as a person said`,
	].filter(Boolean);
	const middle = top + Math.max(band, 34) / 2;
	const bottom = top + (picture.matched > 0 ? band : 52);
	const height = bottom + Math.max(tall(picture.left_unmatched), tall(picture.doubled)) + 26;
	const right = WIDTH - BAR;
	return (
		<figure aria-label={`${meets}; ${how.join("; ")}`} className="mb-3">
			<div className="flex justify-between">
				<p>
					<b>{picture.left}</b>
					<span className="block text-[13px] text-muted">
						{figure(picture.left_total, 0)} · {picture.left_note}
					</span>
				</p>
				<p className="text-right">
					<b>{picture.right}</b>
					<span className="block text-[13px] text-muted">
						{figure(picture.right_total, 0)} · {picture.right_note}
					</span>
				</p>
			</div>
			<svg viewBox={`0 0 ${WIDTH} ${height}`} className="w-full" aria-hidden="true" fontSize="13">
				<rect
					x={BAR}
					y={top}
					width={right - BAR}
					height={band}
					fill="var(--color-ahead)"
					opacity="0.16"
				/>
				<rect x="0" y={top} width={BAR} height={band} fill="var(--color-ahead)" />
				<rect x={right} y={top} width={BAR} height={band} fill="var(--color-ahead)" />
				<text
					x={WIDTH / 2}
					y={middle}
					textAnchor="middle"
					fontSize="24"
					fontWeight="700"
					fill="var(--color-ink)"
				>
					{meets}
				</text>
				<text x={WIDTH / 2} y={middle + 24} textAnchor="middle" fill="var(--color-muted)">
					{how.join(" · ")}
				</text>
				{picture.right_unmatched > 0 && (
					<>
						<rect x={right} y={top - 8} width={BAR} height="8" fill="var(--color-behind)" />
						<text x={right - 8} y={top - 2} textAnchor="end" fill="var(--color-behind)">
							{picture.left === "Students known so far"
								? `${figure(picture.right_unmatched, 0)} not seen before`
								: picture.right_unmatched === 1
									? "1 row matches no student"
									: `${figure(picture.right_unmatched, 0)} rows match no student`}
						</text>
					</>
				)}
				{picture.left_unmatched > 0 && (
					<>
						<rect
							x="0"
							y={bottom}
							width={BAR}
							height={tall(picture.left_unmatched)}
							fill="var(--color-amber)"
						/>
						<text x={BAR + 10} y={bottom + 16} fill="var(--color-amber-ink)">
							{figure(picture.left_unmatched, 0)} on the left{" "}
							{picture.left_unmatched === 1 ? "has" : "have"} no row in the file
						</text>
					</>
				)}
				{picture.doubled > 0 && (
					<>
						<rect
							x={right}
							y={bottom}
							width={BAR}
							height={tall(picture.doubled)}
							fill="var(--color-amber)"
						/>
						<text x={right - 8} y={bottom + 16} textAnchor="end" fill="var(--color-amber-ink)">
							{figure(picture.doubled, 0)} doubled rows
						</text>
					</>
				)}
			</svg>
		</figure>
	);
}

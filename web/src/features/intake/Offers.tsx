import type { Schemas } from "../../api/client";

interface Props {
	offers: Schemas["Offer"][];
	say: (number: string, whose: string | null) => void;
}

/** Likely matches with their evidence: each is accepted, refused or taken back alone. */
export function Offers({ offers, say }: Props) {
	return (
		<table className="mt-2 ml-[72px] text-left text-[13px] [&_td]:py-1 [&_td]:pr-5 [&_th]:pr-5">
			<thead>
				<tr className="text-muted">
					<th scope="col" className="font-semibold">
						Line
					</th>
					<th scope="col" className="font-semibold">
						The file says
					</th>
					<th scope="col" className="font-semibold">
						May be
					</th>
					<th scope="col" className="font-semibold">
						Because
					</th>
					<th scope="col">
						<span className="sr-only">Settle</span>
					</th>
				</tr>
			</thead>
			<tbody>
				{offers.map((offer) => (
					<tr key={offer.number} className="border-t border-line/60">
						<td>{offer.row}</td>
						<td className="font-semibold">{offer.number}</td>
						<td>
							{offer.name ? (
								`${offer.name}, ${offer.student}`
							) : (
								<span className="text-muted">nobody</span>
							)}
						</td>
						<td className="text-muted">{offer.why}</td>
						<td className="flex gap-2">
							<Buttons offer={offer} say={say} />
						</td>
					</tr>
				))}
			</tbody>
		</table>
	);
}

function Buttons({ offer, say }: { offer: Schemas["Offer"]; say: Props["say"] }) {
	const whom = `${offer.number} as ${offer.name || "nobody"}`;
	if (offer.settled)
		return (
			<button
				type="button"
				className="btn btn-outline btn-xs"
				aria-label={`Take back ${whom}`}
				onClick={() => say(offer.number, null)}
			>
				Take back
			</button>
		);
	return (
		<>
			<button
				type="button"
				className="btn btn-outline btn-xs"
				aria-label={`Accept ${whom}`}
				onClick={() => say(offer.number, offer.student)}
			>
				Accept
			</button>
			<button
				type="button"
				className="btn btn-ghost btn-xs"
				aria-label={`No, ${offer.number} is not ${offer.name}`}
				onClick={() => say(offer.number, "no")}
			>
				No
			</button>
		</>
	);
}

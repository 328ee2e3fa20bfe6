import type { Schemas } from "../../api/client";
import { DataTable } from "../../ui/DataTable";

interface Props {
	offers: Schemas["Offer"][];
	say: (number: string, whose: string | null) => void;
}

/** Likely matches with their evidence: each is accepted, refused or taken back alone. */
export function Offers({ offers, say }: Props) {
	return (
		<DataTable
			caption="Likely matches"
			className="mt-2 ml-[72px] max-h-[60vh]"
			named={false}
			rows={offers}
			keyOf={(offer) => offer.number}
			columns={[
				{ key: "line", label: "Line", side: "left", cell: (offer) => offer.row },
				{
					key: "says",
					label: "The file says",
					side: "left",
					className: "font-semibold",
					cell: (offer) => offer.number,
				},
				{ key: "may", label: "May be", side: "left", cell: mayBe },
				{
					key: "why",
					label: "Because",
					side: "left",
					className: "text-muted",
					cell: (offer) => offer.why,
				},
				{
					key: "settle",
					label: <span className="sr-only">Settle</span>,
					side: "left",
					className: "whitespace-nowrap",
					cell: (offer) => <Buttons offer={offer} say={say} />,
				},
			]}
		/>
	);
}

function mayBe(offer: Schemas["Offer"]) {
	if (!offer.name) return <span className="text-muted">nobody</span>;
	return `${offer.name}, ${offer.student}`;
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
				className="btn btn-ghost btn-xs ml-2"
				aria-label={`No, ${offer.number} is not ${offer.name}`}
				onClick={() => say(offer.number, "no")}
			>
				No
			</button>
		</>
	);
}

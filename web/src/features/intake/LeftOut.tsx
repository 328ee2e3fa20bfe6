import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { count } from "../../lib/numbers";

interface Props {
	draft: string;
	leftOut: Schemas["LeftOut"][];
}

/** What of the file nothing is kept of, as plainly as what is matched. */
export function LeftOut({ draft, leftOut }: Props) {
	if (leftOut.length === 0) return null;
	return (
		<section aria-label="Left out" className="mb-4">
			<h2 className="border-b border-line pb-1 text-[13px] font-semibold text-muted">
				Left out of the file
			</h2>
			<ul className="mt-1 columns-2 gap-8">
				{leftOut.map((one) => (
					<li key={`${one.header} ${one.why}`} className="break-inside-avoid py-0.5">
						<b>{one.header}</b>: {count(one.n, "cell")}
						<span className="text-muted"> · {one.why}</span>
					</li>
				))}
			</ul>
			<Link
				to="/intake/$draftId"
				params={{ draftId: draft }}
				search={{ step: "columns" }}
				className="font-semibold text-ahead hover:underline"
			>
				Say what a column is
			</Link>
		</section>
	);
}

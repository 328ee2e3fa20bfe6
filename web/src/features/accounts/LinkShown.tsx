import { useState } from "react";
import { day } from "../../lib/words";
import type { Made } from "./useAccounts";

/** A one-time link, to be sent to its person; it is not shown again. */
export function LinkShown({ link }: { link: Made }) {
	const [copied, setCopied] = useState(false);
	const address = `${window.location.origin}${link.path}`;
	async function copy(): Promise<void> {
		await navigator.clipboard.writeText(address);
		setCopied(true);
	}
	return (
		<section
			aria-label="One-time link"
			className="rounded border border-line border-l-[3px] border-l-amber bg-wash p-4"
		>
			<h2 className="font-bold">A link for {link.name}</h2>
			<p className="mb-2 text-[13px] text-muted">
				Whoever opens it says a password and is in, once, until {day(link.good_until)}. Send it in a
				way that only they read. It is not shown again; a newer one makes it void.
			</p>
			<input
				className="input input-sm w-full font-mono text-xs"
				aria-label="The link"
				readOnly
				value={address}
				onFocus={(event) => event.target.select()}
			/>
			<button type="button" className="btn btn-outline btn-sm mt-2" onClick={copy}>
				{copied ? "Copied" : "Copy"}
			</button>
		</section>
	);
}

import { Search } from "lucide-react";
import { Suspense, useState } from "react";
import { useKeys } from "../../lib/keys";
import { later } from "../../lib/later";
import { Modal } from "../../ui/Modal";

const FindPanel = later(async () => (await import("./FindPanel")).FindPanel);

/** Find a student, a class, a test, a saved question from anywhere: `/` opens it. */
export function Find() {
	const [open, setOpen] = useState(false);
	useKeys({ "/": () => setOpen(true) });
	return (
		<>
			<button
				type="button"
				className="mr-3 flex items-center gap-2 self-center rounded border border-on-bar/30 px-2 py-0.5 text-[13px] text-on-bar/85 hover:border-on-bar"
				onClick={() => setOpen(true)}
			>
				<Search size={13} aria-hidden="true" /> Find <kbd className="text-xs">/</kbd>
			</button>
			<Modal title="Find" open={open} setOpen={setOpen} width={560}>
				{(close) => (
					<Suspense>
						<FindPanel close={close} />
					</Suspense>
				)}
			</Modal>
		</>
	);
}

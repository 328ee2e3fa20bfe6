import { OwnWords } from "./OwnWords";
import { Releases } from "./Releases";
import { WhoSees } from "./WhoSees";

/** What others than the data lead see, and the words that everybody reads. */
export function SetupPage() {
	return (
		<div className="h-full overflow-auto px-5 py-4">
			<h1 className="mb-1 text-xl font-bold">Setup</h1>
			<p className="mb-5 text-muted">
				Who leads a school sees their own students. What they see of others, and in which words
				everybody reads, you decide here.
			</p>
			<div className="grid max-w-[1120px] gap-10 lg:grid-cols-2">
				<Releases />
				<WhoSees />
				<OwnWords />
			</div>
		</div>
	);
}

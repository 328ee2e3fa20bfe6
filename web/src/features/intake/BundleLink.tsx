import { useState } from "react";
import { useCatalogue } from "../../api/catalogue";

/** The OneRoster bundle, with sex and race where it is said which characteristics they are. */
export function BundleLink() {
	const [sex, setSex] = useState("");
	const [race, setRace] = useState("");
	const catalogue = useCatalogue();
	const names = (catalogue.data?.characteristics ?? []).map((one) => one.label);
	const said = Object.entries({ sex, race }).filter(([, value]) => value);
	const query = new URLSearchParams(said).toString();
	const choose = (label: string, value: string, set: (text: string) => void) => (
		<label className="flex items-center gap-2">
			<span className="w-28 text-muted">{label}</span>
			<select
				className="select select-xs"
				value={value}
				onChange={(event) => set(event.target.value)}
			>
				<option value="">left out</option>
				{names.map((one) => (
					<option key={one}>{one}</option>
				))}
			</select>
		</label>
	);
	return (
		<>
			<a
				href={query ? `/api/bundle?${query}` : "/api/bundle"}
				download
				className="font-semibold text-ahead hover:underline"
			>
				Everything, for another program
			</a>
			<span className="block text-muted">A OneRoster bundle: rosters of today, all scores.</span>
			{names.length > 0 && (
				<details className="text-[13px]">
					<summary className="cursor-pointer">Which characteristic is which?</summary>
					{choose("its sex is", sex, setSex)}
					{choose("its race is", race, setRace)}
				</details>
			)}
		</>
	);
}

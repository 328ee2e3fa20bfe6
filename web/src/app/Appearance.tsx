import { useState } from "react";
import { Segments } from "../ui/Segments";
import { type Choice, choose, chosen } from "./appearance";

const WORDS: { key: Choice; words: string }[] = [
	{ key: "system", words: "as the system" },
	{ key: "light", words: "light" },
	{ key: "dark", words: "dark" },
];

/** Light or dark, for this browser. */
export function Appearance() {
	const [now, setNow] = useState(chosen);
	return (
		<Segments
			label="Appearance"
			options={WORDS}
			chosen={now}
			choose={(choice) => {
				choose(choice);
				setNow(choice);
			}}
		/>
	);
}

interface Props {
	/** What is kept, in words: “a rule that is kept”. */
	kept: string;
	options: readonly { key: string; words: string }[];
	choose: (at: number) => void;
}

/** Something that is kept, to begin an editor with; it stays what it was. */
export function StartFrom({ kept, options, choose }: Props) {
	if (!options.length) return null;
	return (
		<label>
			<span className="block text-[13px] font-semibold">Start from</span>
			<select
				className="select select-sm w-64"
				value=""
				onChange={(event) => event.target.value && choose(Number(event.target.value))}
			>
				<option value="">{kept}</option>
				{options.map((one, at) => (
					<option key={one.key} value={at}>
						{one.words}
					</option>
				))}
			</select>
		</label>
	);
}

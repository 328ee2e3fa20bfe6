interface Props {
	label: string;
	value: string;
	hint?: string | undefined;
	width?: string;
	save: (text: string) => void;
}

/** A field below its label, told at every letter. */
export function LabelField({ label, value, hint, width = "w-44", save }: Props) {
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<input
				className={`input input-sm ${width}`}
				value={value}
				placeholder={hint}
				onChange={(event) => save(event.target.value)}
			/>
		</label>
	);
}

import { useState } from "react";

interface Props {
	label: string;
	value: string;
	save: (value: string) => void;
	type?: string;
	hint?: string;
	width?: string;
}

/** A field that is saved when it is left or Enter is pressed, not at every letter. */
export function TextField({ label, value, save, type = "text", hint, width = "w-40" }: Props) {
	const [text, setText] = useState(value);
	const done = () => text !== value && save(text);
	return (
		<label>
			<span className="block text-[13px] font-semibold">{label}</span>
			<input
				className={`input input-sm ${width}`}
				type={type}
				placeholder={hint}
				value={text}
				onChange={(event) => setText(event.target.value)}
				onBlur={done}
				onKeyDown={(event) => event.key === "Enter" && done()}
			/>
		</label>
	);
}

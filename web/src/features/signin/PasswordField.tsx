import { useState } from "react";

interface Props {
	label: string;
	value: string;
	/** A new one is being said, which the browser may offer to keep. */
	fresh?: boolean;
	save: (text: string) => void;
}

/** A password, hidden until its person wants to read it. */
export function PasswordField({ label, value, fresh = false, save }: Props) {
	const [shown, setShown] = useState(false);
	return (
		<div>
			<label className="block">
				<span className="block text-[13px] font-semibold">{label}</span>
				<input
					className="input input-sm w-full"
					type={shown ? "text" : "password"}
					autoComplete={fresh ? "new-password" : "current-password"}
					value={value}
					onChange={(event) => save(event.target.value)}
				/>
			</label>
			<p className="mt-1 flex justify-between text-[13px] text-muted">
				<span>{fresh && "Ten characters or more: several words that do not belong together."}</span>
				<button
					type="button"
					className="text-ahead hover:underline"
					aria-pressed={shown}
					onClick={() => setShown(!shown)}
				>
					{shown ? "hide" : "show"}
				</button>
			</p>
		</div>
	);
}

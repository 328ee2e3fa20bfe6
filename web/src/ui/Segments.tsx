import { ToggleButton, ToggleButtonGroup } from "react-aria-components";

interface Props<T extends string> {
	label: string;
	options: readonly { key: T; words: string; why?: string | undefined }[];
	chosen: T;
	choose: (key: T) => void;
}

/** A few ways of which one holds; the arrow keys go from one to the next. */
export function Segments<T extends string>({ label, options, chosen, choose }: Props<T>) {
	return (
		<ToggleButtonGroup
			aria-label={label}
			selectionMode="single"
			disallowEmptySelection
			selectedKeys={[chosen]}
			onSelectionChange={(keys) => {
				const next = options.find((one) => keys.has(one.key));
				if (next && next.key !== chosen) choose(next.key);
			}}
			className="no-print mb-1 flex gap-1 text-[13px]"
		>
			{options.map((one) => (
				<ToggleButton
					key={one.key}
					id={one.key}
					isDisabled={Boolean(one.why)}
					className="rounded border border-line px-2 py-0.5 text-muted data-[selected]:border-ink data-[selected]:font-semibold data-[selected]:text-ink data-[disabled]:italic"
				>
					{one.words}
				</ToggleButton>
			))}
		</ToggleButtonGroup>
	);
}

interface Props {
	row: { n: number; missing?: number };
}

/** How many are counted, and below how many are not. */
export function Counted({ row }: Props) {
	return (
		<span className="text-right text-[13px] leading-tight text-muted">
			{row.n}
			{row.missing ? <span className="block text-[11px]">{row.missing} missing</span> : null}
		</span>
	);
}

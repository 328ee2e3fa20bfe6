/** The marks of groups, told apart by their shape as well, so that grey print reads. */
const PATHS = [
	"",
	"M0 -6.5L6.5 0L0 6.5L-6.5 0Z",
	"M0 -6L6 5H-6Z",
	"M-5 -5H5V5H-5Z",
	"M0 6L6 -5H-6Z",
	"M-5 -2V2H-2V5H2V2H5V-2H2V-5H-2V-2Z",
];
const INKS = [
	"",
	"var(--color-amber)",
	"var(--color-paper)",
	"var(--color-paper)",
	"var(--color-paper)",
	"var(--color-paper)",
];

interface Props {
	shape: number;
	x: number;
	y: number;
	/** The colour of the one in front. */
	paint: string;
}

/** A group on the axis of shares. */
export function GroupShape({ shape, x, y, paint }: Props) {
	if (shape === 0) return <circle cx={x} cy={y} r="6" fill={paint} />;
	return (
		<path
			d={PATHS[shape] ?? PATHS[1]}
			transform={`translate(${x} ${y})`}
			fill={INKS[shape] ?? "var(--color-paper)"}
			stroke="var(--color-ink)"
			strokeWidth="1.2"
		/>
	);
}

/** Others who are in none of the groups: the rest as a line, the nation as a ring. */
export function RestLine({ x, y }: { x: number; y: number }) {
	return <path d={`M${x} ${y - 8}V${y + 8}`} stroke="var(--color-ink)" strokeWidth="2.5" />;
}

export function NationRing({ x, y }: { x: number; y: number }) {
	return (
		<circle
			cx={x}
			cy={y}
			r="4.5"
			fill="var(--color-paper)"
			stroke="var(--color-neither)"
			strokeWidth="1.8"
		/>
	);
}

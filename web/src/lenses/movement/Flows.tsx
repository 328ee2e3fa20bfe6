import type { Schemas } from "../../api/client";
import { count, figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { BLOCK, type Block, HEIGHT, movementLayout, type Ribbon } from "./layout";

interface Props {
	body: Schemas["MovementBody"];
	open: LensProps["open"];
	width: number;
}

const NAMES = 110;
const PAINT = {
	up: "var(--color-ahead)",
	same: "var(--color-neither)",
	down: "var(--color-behind)",
} as const;

/** Ribbons from the level then to the level now; each opens its students. */
export function Flows({ body, open, width }: Props) {
	const [left, right] = [NAMES, width - NAMES - BLOCK];
	const layout = movementLayout(body, left, right);
	return (
		<div style={{ width }}>
			<div className="flex justify-between px-1 text-xs font-semibold text-muted">
				<span>{body.before}</span>
				<span>{body.now}</span>
			</div>
			<svg width={width} height={HEIGHT + 2} aria-hidden="true">
				<defs>
					<pattern id="below" width="6" height="6" patternUnits="userSpaceOnUse">
						<rect width="6" height="6" fill="var(--color-behind)" opacity="0.55" />
						<path d="M-1 7L7 -1" stroke="var(--color-paper)" strokeWidth="1.2" />
					</pattern>
				</defs>
				{layout.ribbons.map((one) => (
					<Way key={`${one.flow.before} ${one.flow.now}`} {...{ one, body, open }} />
				))}
				<Side blocks={layout.then} x={left} words={left - 8} end />
				<Side blocks={layout.now} x={right} words={right + BLOCK + 8} />
			</svg>
		</div>
	);
}

interface WayProps {
	one: Ribbon;
	body: Schemas["MovementBody"];
	open: LensProps["open"];
}

function Way({ one, body, open }: WayProps) {
	const { flow } = one;
	const words = `${count(flow.n, "student")}: ${body.now_in[flow.before]?.name} then, ${body.now_in[flow.now]?.name} now; credit ${figure(100 * flow.credit, 0)}%`;
	const { opens } = flow;
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the matrix beside has a button for each
		<path
			d={one.path}
			fill={PAINT[one.way]}
			opacity={one.way === "same" ? 0.25 : 0.4}
			className={opens ? "cursor-pointer hover:opacity-70" : ""}
			onClick={() => opens && open(opens)}
		>
			<title>{words}</title>
		</path>
	);
}

interface SideProps {
	blocks: Block[];
	x: number;
	/** Where the names stand, and whether they end there. */
	words: number;
	end?: boolean;
}

/** The levels of one sitting; below the pass line hatched, so that grey print reads. */
function Side({ blocks, x, words, end = false }: SideProps) {
	return (
		<g>
			{blocks.map((block) => (
				<g key={block.level}>
					<rect
						x={x}
						y={block.y}
						width={BLOCK}
						height={Math.max(block.height, 1)}
						fill={block.passes ? "var(--color-ahead)" : "url(#below)"}
						stroke="var(--color-paper)"
					/>
					<text
						x={words}
						y={block.y + block.height / 2 + 4}
						textAnchor={end ? "end" : "start"}
						fontSize="12.5"
						fill="var(--color-ink)"
					>
						{block.name} <tspan fontWeight="700">{block.n}</tspan>
					</text>
				</g>
			))}
		</g>
	);
}

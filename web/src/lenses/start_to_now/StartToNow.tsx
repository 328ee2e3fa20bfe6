import { AxisTitle, XTicks, YGrid } from "../../charts/Axes";
import { DASHES, INKS } from "../../charts/inks";
import { useWidth } from "../../charts/useWidth";
import { figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { Segments } from "../../ui/Segments";
import { Dots, SHAPES } from "./Dots";
import { HEIGHT, type StartLayout, startLayout, type View } from "./layout";

const VIEWS: { key: View; words: string }[] = [
	{ key: "scores", words: "Start against now" },
	{ key: "beyond", words: "Beyond the expected" },
];

/** Prior against outcome with what similar starters reach; a dot opens its student. */
export function StartToNow({ answer, look, setLook, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "start_to_now") return null;
	const view: View = look.view === "beyond" && body.beyond ? "beyond" : "scores";
	const layout = startLayout(body, view, width);
	const several = body.groups.length > 1;
	const title =
		view === "beyond" ? `${body.unit} beyond what similar starters reach` : body.y_label;
	return (
		<figure ref={frame} aria-label={answer.sentence} className="print-flow flex flex-col">
			<div className="flex flex-wrap items-center gap-x-4">
				{body.beyond && (
					<Segments
						label="What is drawn"
						options={VIEWS}
						chosen={view}
						choose={(key) => setLook({ view: key })}
					/>
				)}
				{several && <Groups groups={body.groups.map((group) => group.label)} />}
			</div>
			{/* biome-ignore lint/a11y/useSemanticElements: a drawing is no fieldset, and its marks can be reached */}
			<svg width={width} height={HEIGHT} role="group" aria-label={`${figure(body.n, 0)} students`}>
				<YGrid ticks={layout.yTicks} left={layout.left} right={layout.right} />
				<XTicks ticks={layout.xTicks} bottom={layout.bottom} />
				{layout.cells.map((cell) => (
					<rect
						key={`${cell.x} ${cell.y}`}
						x={cell.x}
						y={cell.y}
						width={cell.width + 0.5}
						height={cell.height + 0.5}
						fill={several ? "var(--color-neither)" : "var(--color-ahead)"}
						opacity={0.08 + (several ? 0.45 : 0.8) * cell.shade}
					/>
				))}
				{view === "beyond" && (
					<path
						d={`M${layout.left} ${layout.y(0)}H${layout.right}`}
						stroke="var(--color-amber-ink)"
						strokeWidth="2"
					/>
				)}
				<Dots {...{ body, layout, several, open }} />
				<Outlines layout={layout} />
				<Lines layout={layout} />
				<AxisTitle
					x={(layout.left + layout.right) / 2}
					y={HEIGHT - 6}
					text={`start: ${body.x_label}`}
				/>
				<AxisTitle x={12} y={(layout.top + layout.bottom) / 2} text={title} turned />
			</svg>
			<figcaption className="text-xs text-muted">
				{figure(body.n, 0)} drawn, {figure(body.missing, 0)} without one of the two scores
				{body.lines.length > 0 && " · amber: what similar starters reach"}
				{layout.outlines.length > 0 && " · outline: the half of a group that lies closest together"}
				{!body.dots && " · darker: more students"}
			</figcaption>
		</figure>
	);
}

/** The groups with their shape, ink and kind of outline. */
function Groups({ groups }: { groups: string[] }) {
	return (
		<ul className="mb-1 flex flex-wrap gap-x-4 text-[13px]" aria-label="Groups">
			{groups.map((label, at) => (
				<li key={label} className="flex items-center gap-1.5">
					<svg width="34" height="12" viewBox="-6 -6 34 12" aria-hidden="true">
						<path d={SHAPES[at]} fill={at < 4 ? INKS[at] : "none"} stroke={INKS[at]} />
						<path d="M8 0H26" stroke={INKS[at]} strokeWidth="2.5" strokeDasharray={DASHES[at]} />
					</svg>
					{label}
				</li>
			))}
		</ul>
	);
}

function Outlines({ layout }: { layout: StartLayout }) {
	return (
		<g fill="none" strokeWidth="2.500" pointerEvents="none">
			{layout.outlines.map(({ group, d }) => (
				<path key={group} d={d} stroke={INKS[group]} strokeDasharray={DASHES[group]} />
			))}
		</g>
	);
}

function Lines({ layout }: { layout: StartLayout }) {
	return (
		<g pointerEvents="none">
			{layout.lines.map((line) => (
				<g key={line.label}>
					<path d={line.d} fill="none" stroke="var(--color-amber-ink)" strokeWidth="2" />
					<path
						d={`M${line.end[0]} ${line.end[1]}L${layout.right + 2} ${line.name}`}
						stroke="var(--color-line)"
					/>
					<text
						x={layout.right + 5}
						y={line.name + 4}
						fontSize="11.500"
						fill="var(--color-amber-ink)"
					>
						{line.label}
					</text>
				</g>
			))}
		</g>
	);
}

import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/useWidth";
import { figure } from "../../lib/numbers";
import type { LensProps } from "../../question/model/lens";
import { Segments } from "../../ui/Segments";
import { Boxes } from "./Boxes";
import { Curves, Legend } from "./Curves";
import { spreadLayout, type View, viewsOf } from "./layout";
import { Multiples } from "./Multiples";
import { Near } from "./Near";

const WORDS: Record<View, string> = {
	above: "Share at or above",
	histogram: "Histogram",
	box: "Boxes",
	small: "Small pictures",
};

/** The distribution of every group or measure on one axis, with boundaries drawn in. */
export function Spread({ answer, question, look, setLook, ask, open }: LensProps) {
	const [frame, width] = useWidth<HTMLElement>();
	const body = answer.body;
	if (body.show !== "spread") return null;
	const views = viewsOf(body);
	const view = views.find((one) => one === look.view) ?? views[0] ?? "box";
	const [first, last] = [body.edges[0] ?? 0, body.edges.at(-1) ?? 1];
	const at = look.at ?? Math.round((first + last) / 2);
	const zoom = look.scores ?? null;
	const options = question.options ?? {};
	const shared = { body, width, open, zoom };
	return (
		<figure
			ref={frame}
			aria-label={answer.sentence}
			className="print-flow flex min-h-0 flex-1 flex-col"
		>
			<div className="no-print mb-1 flex flex-wrap items-center gap-1 text-[13px]">
				<Segments
					label="How it is drawn"
					options={views.map((key) => ({ key, words: WORDS[key] }))}
					chosen={view}
					choose={(key) => setLook({ view: key })}
				/>
				{body.cuts.length > 0 && (
					<label className="ml-3 flex items-center gap-1.5">
						<input
							type="checkbox"
							className="checkbox checkbox-xs"
							checked={body.cuts.some((cut) => cut.half)}
							onChange={(event) =>
								ask({ ...question, options: { ...options, halves: event.target.checked } })
							}
						/>
						half-steps
					</label>
				)}
				<Zoom {...{ zoom, first, last }} setZoom={(scores) => setLook({ scores })} />
			</div>
			{view === "box" && <Boxes {...shared} />}
			{view === "small" && <Multiples {...shared} />}
			{(view === "above" || view === "histogram") && (
				<Curves
					body={body}
					layout={spreadLayout(body, view, width, zoom)}
					view={view}
					width={width}
					at={at}
					words={answer.sentence}
				/>
			)}
			{view === "above" && (
				<label className="no-print flex items-center gap-2 text-[13px] text-muted">
					Share at or above
					<input
						type="range"
						className="w-64 accent-(--color-amber-ink)"
						min={Math.ceil(first)}
						max={Math.floor(last)}
						value={at}
						onChange={(event) => setLook({ at: Number(event.target.value) })}
					/>
					<b className="text-ink">
						{figure(at, 0)} {body.unit}
					</b>
				</label>
			)}
			{body.curves_drawn && <Legend {...{ body, open }} score={view === "above" ? at : null} />}
			<Near key={body.near?.within} {...{ body, question, ask, open }} />
		</figure>
	);
}

interface ZoomProps {
	zoom: Zoomed;
	setZoom: (zoom: [number, number] | undefined) => void;
	first: number;
	last: number;
}

export type Zoomed = [number, number] | null;

/** The scores that are looked at; one button brings all back. */
function Zoom({ zoom, setZoom, first, last }: ZoomProps) {
	const [low, high] = zoom ?? [first, last];
	const set = (from: number, to: number) => to > from && setZoom([from, to]);
	return (
		<span className="ml-auto flex items-center gap-1 text-muted">
			scores
			<input
				className="input input-xs w-16"
				type="number"
				aria-label="Lowest score shown"
				value={Math.round(low)}
				onChange={(event) => set(Number(event.target.value), high)}
			/>
			to
			<input
				className="input input-xs w-16"
				type="number"
				aria-label="Highest score shown"
				value={Math.round(high)}
				onChange={(event) => set(low, Number(event.target.value))}
			/>
			{zoom && (
				<button
					type="button"
					className="text-ahead hover:underline"
					onClick={() => setZoom(undefined)}
				>
					all
				</button>
			)}
		</span>
	);
}

/** What every way of drawing a distribution is given. */
export interface Drawing {
	body: Schemas["SpreadBody"];
	width: number;
	zoom: Zoomed;
	open: LensProps["open"];
}

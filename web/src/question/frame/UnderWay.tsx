import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, Suspense, useEffect, useLayoutEffect, useState } from "react";
import { answerTo } from "../../api/answers";
import type { Question } from "../../api/client";
import type { Lens } from "../model/lens";

interface Props {
	found: {
		isFetching: boolean;
		isPending: boolean;
		isPlaceholderData: boolean;
		refetch: () => void;
	};
	question: Question;
	now: Lens | undefined;
	/** Told while the lens itself is still being loaded. */
	setLoading: (loading: boolean) => void;
	/** The answer in its lens, once there is one. */
	children: ReactNode;
}

/** From here on a wait says how long it has been, and can be stopped; in milliseconds. */
const LONG = 1000;

/** The answer while it is asked for: the last one stays, or a sketch of the lens stands in for it. */
export function UnderWay({ found, question, now, setLoading, children }: Props) {
	const queries = useQueryClient();
	const [stopped, setStopped] = useState(false);
	const seconds = useSeconds(found.isFetching);
	const late = found.isPlaceholderData || found.isPending;
	// biome-ignore lint/correctness/useExhaustiveDependencies: another question begins anew
	useEffect(() => setStopped(false), [question]);
	async function stop(): Promise<void> {
		setStopped(true);
		await queries.cancelQueries({ queryKey: answerTo(question).queryKey });
	}
	const sketch = <Sketch name={now?.name ?? "the answer"} />;
	return (
		<>
			{found.isFetching && seconds * 1000 >= LONG && (
				<p role="status" className="mb-1 flex items-center gap-2 text-[13px] text-muted">
					<span className="loading loading-spinner loading-xs" aria-hidden="true" />
					Working it out, {seconds} s
					<button type="button" className="text-ahead hover:underline" onClick={stop}>
						Stop
					</button>
				</p>
			)}
			{stopped && !found.isFetching && late && (
				<p role="status" className="mb-1 flex items-center gap-2 text-[13px] text-amber-ink">
					Stopped: {children ? "this is still the answer before." : "nothing was worked out."}
					<button
						type="button"
						className="text-ahead hover:underline"
						onClick={() => {
							setStopped(false);
							found.refetch();
						}}
					>
						Ask again
					</button>
				</p>
			)}
			<div
				className={`print-flow flex min-h-0 flex-1 flex-col ${late && children ? "grayscale" : ""}`}
			>
				<Suspense fallback={<Loading tell={setLoading}>{sketch}</Loading>}>
					{children || (!stopped && sketch)}
				</Suspense>
			</div>
		</>
	);
}

interface LoadingProps {
	tell: (loading: boolean) => void;
	children: ReactNode;
}

/** Stands in for a lens that is being loaded: until it is there, nothing is answered yet. */
function Loading({ tell, children }: LoadingProps) {
	useLayoutEffect(() => {
		tell(true);
		return () => tell(false);
	}, [tell]);
	return children;
}

/** Whole seconds since something began that is still under way. */
function useSeconds(under: boolean): number {
	const [seconds, setSeconds] = useState(0);
	useEffect(() => {
		setSeconds(0);
		if (!under) return;
		const began = Date.now();
		const timer = setInterval(() => setSeconds(Math.floor((Date.now() - began) / 1000)), 250);
		return () => clearInterval(timer);
	}, [under]);
	return seconds;
}

const ROWS = [62, 48, 75, 40, 56, 68, 44, 71, 52];

/** Rows of the height that the rows will have, so that nothing jumps. */
function Sketch({ name }: { name: string }) {
	return (
		<div role="status" className="flex flex-col gap-3 pt-9">
			<span className="sr-only">{name}: working it out</span>
			{ROWS.map((share) => (
				<span key={share} className="sketch flex h-6 items-center gap-4" aria-hidden="true">
					<span className="h-3 w-36 rounded bg-wash" />
					<span className="h-2.5 rounded bg-wash" style={{ width: `${share}%` }} />
				</span>
			))}
		</div>
	);
}

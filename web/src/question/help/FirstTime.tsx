import { useEffect, useState } from "react";

const KEY = "bridge-chart-walked";
const STEPS = [
	{
		at: "#sentence",
		text: "Every comparison is this sentence. The bold parts open: who, what, split by, against what.",
	},
	{
		at: "[aria-label='Split by']",
		text: "How far apart the groups of every characteristic are, before any click. Choose one to split by it.",
	},
	{
		at: "[aria-label='Lens']",
		text: "The same question in several ways. A lens changes nothing but the drawing.",
	},
	{
		at: "[aria-label='Coverage']",
		text: "Who is counted and who is not. Each number, like each mark in the chart, opens its students.",
	},
	{
		at: "[aria-label='What it says']",
		text: "The chart in sentences, what cannot be told, and how it is worked out. Press ? for keys and words.",
	},
];

/** Walks a newcomer through once; never again in this browser unless asked for. */
export function FirstTime({ again, done }: { again: boolean; done: () => void }) {
	const [step, setStep] = useState(() => (localStorage.getItem(KEY) ? STEPS.length : 0));
	useEffect(() => {
		if (again) setStep(0);
	}, [again]);
	const now = STEPS[step];
	useEffect(() => {
		const target = now && document.querySelector(now.at);
		target?.classList.add("pointed-at");
		return () => target?.classList.remove("pointed-at");
	}, [now]);
	if (!now) return null;
	function go(next: number): void {
		setStep(next);
		if (next >= STEPS.length) {
			localStorage.setItem(KEY, "yes");
			done();
		}
	}
	return (
		<section
			aria-label="First time here"
			className="no-print mb-2 flex shrink-0 items-center gap-3 rounded border border-amber bg-amber-wash px-3 py-1.5"
		>
			<p role="status">{now.text}</p>
			<span className="ml-auto shrink-0 text-xs text-amber-ink">
				{step + 1} of {STEPS.length}
			</span>
			<button type="button" className="btn btn-sm" onClick={() => go(step + 1)}>
				{step + 1 < STEPS.length ? "Next" : "Done"}
			</button>
			<button
				type="button"
				className="text-xs text-amber-ink hover:underline"
				onClick={() => go(STEPS.length)}
			>
				Leave it
			</button>
		</section>
	);
}

import { type ReactNode, useEffect, useId, useRef, useState } from "react";

interface Props {
	label: string;
	title: string;
	className: string;
	children: (close: () => void) => ReactNode;
	trigger: ReactNode;
	width?: number;
	/** Opens upwards, for a button at the foot of the page. */
	above?: boolean;
}

/** A button that opens a panel below it; Esc or a click elsewhere closes it. */
export function Popover(props: Props) {
	const { label, title, className, children, trigger, width = 320, above = false } = props;
	const [open, setOpen] = useState(false);
	const root = useRef<HTMLSpanElement>(null);
	const button = useRef<HTMLButtonElement>(null);
	const panel = useRef<HTMLDivElement>(null);
	const id = useId();

	useEffect(() => {
		if (!open) return;
		panel.current?.querySelector<HTMLElement>("input, button")?.focus();
		function outside(event: MouseEvent): void {
			if (!root.current?.contains(event.target as Node)) setOpen(false);
		}
		function leave(event: KeyboardEvent): void {
			if (event.key !== "Escape") return;
			event.stopPropagation();
			setOpen(false);
			button.current?.focus();
		}
		document.addEventListener("mousedown", outside);
		document.addEventListener("keydown", leave, true);
		return () => {
			document.removeEventListener("mousedown", outside);
			document.removeEventListener("keydown", leave, true);
		};
	}, [open]);

	// Near the right edge the panel opens to the left.
	const right = (root.current?.getBoundingClientRect().left ?? 0) + width > window.innerWidth - 16;
	return (
		<span ref={root} className="relative inline-block">
			<button
				ref={button}
				type="button"
				className={className}
				aria-haspopup="dialog"
				aria-expanded={open}
				aria-controls={open ? id : undefined}
				aria-label={label}
				onClick={() => setOpen(!open)}
			>
				{trigger}
			</button>
			{open && (
				<div
					id={id}
					ref={panel}
					role="dialog"
					aria-label={title}
					style={{ width }}
					className={`absolute z-30 max-h-[70vh] ${above ? "bottom-full mb-1" : "top-full mt-1"} overflow-auto rounded-md border border-line bg-paper p-2 text-sm font-normal text-ink shadow-lg ${right ? "right-0" : "left-0"}`}
				>
					{children(() => {
						setOpen(false);
						button.current?.focus();
					})}
				</div>
			)}
		</span>
	);
}

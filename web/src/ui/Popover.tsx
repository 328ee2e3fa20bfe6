import { type ReactNode, Suspense } from "react";
import { Popover as Above, Button, Dialog, DialogTrigger } from "react-aria-components";

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

/** A button that opens a panel beside it; Esc or a click elsewhere closes it. */
export function Popover(props: Props) {
	const { label, title, className, children, trigger, width = 320, above = false } = props;
	return (
		<DialogTrigger>
			<Button aria-label={label} className={className}>
				{trigger}
			</Button>
			<Above
				// What lies beside stays in reach: a click there closes this and does its own work.
				isNonModal
				placement={above ? "top start" : "bottom start"}
				offset={4}
				style={{ width: `min(${width}px, calc(100vw - 24px))` }}
				className="sheet overflow-auto p-2 text-sm font-normal text-ink"
			>
				<Dialog aria-label={title} className="outline-none">
					{({ close }) => <Suspense>{children(close)}</Suspense>}
				</Dialog>
			</Above>
		</DialogTrigger>
	);
}

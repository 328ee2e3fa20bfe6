import type { ReactNode } from "react";
import { Modal as Above, Dialog, ModalOverlay } from "react-aria-components";

interface Props {
	title: string;
	open: boolean;
	setOpen: (open: boolean) => void;
	width: number;
	children: (close: () => void) => ReactNode;
}

/** A panel that everything else waits for; Esc or a click beside it closes it. */
export function Modal({ title, open, setOpen, width, children }: Props) {
	return (
		<ModalOverlay
			isOpen={open}
			onOpenChange={setOpen}
			isDismissable
			className="fixed inset-0 z-40 flex items-start justify-center bg-ink/25 pt-14"
		>
			<Above
				className="sheet max-h-[84vh] overflow-auto"
				style={{ width: `min(${width}px, calc(100vw - 24px))` }}
			>
				<Dialog aria-label={title} className="p-4 outline-none">
					{({ close }) => children(close)}
				</Dialog>
			</Above>
		</ModalOverlay>
	);
}

import { X } from "lucide-react";
import {
	Button,
	Text,
	UNSTABLE_Toast as Toast,
	UNSTABLE_ToastContent as ToastContent,
	UNSTABLE_ToastRegion as ToastRegion,
} from "react-aria-components";
import { toasts } from "./toasts";

/** What was done, at the foot of the page, with the way back. */
export function Toasts() {
	return (
		<ToastRegion
			queue={toasts}
			className="no-print fixed bottom-4 left-1/2 z-50 flex -translate-x-1/2 flex-col gap-2"
		>
			{({ toast }) => (
				<Toast
					toast={toast}
					className="flex items-center gap-3 rounded bg-bar px-3 py-2 text-on-bar"
				>
					<ToastContent>
						<Text slot="title">{toast.content.said}</Text>
					</ToastContent>
					{toast.content.undo && (
						<Button
							className="font-semibold text-amber hover:underline"
							onPress={() => {
								toast.content.undo?.();
								toasts.close(toast.key);
							}}
						>
							Undo
						</Button>
					)}
					<Button slot="close" aria-label="Close" className="ml-1">
						<X size={14} aria-hidden="true" />
					</Button>
				</Toast>
			)}
		</ToastRegion>
	);
}

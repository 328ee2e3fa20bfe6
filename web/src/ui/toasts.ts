import { UNSTABLE_ToastQueue as ToastQueue } from "react-aria-components";

/** Something that was done, and how it is taken back. */
export interface Done {
	said: string;
	undo?: () => void;
}

export const toasts = new ToastQueue<Done>({ maxVisibleToasts: 3 });

/** Long enough to read it and to reach the button. */
const STAYS = 12_000;

/** Says that something was done; `undo` takes it back. */
export function done(said: string, undo?: () => void): void {
	toasts.add(undo ? { said, undo } : { said }, { timeout: STAYS });
}

import { vi } from "vitest";

/** What the parts expect of a browser and jsdom has not: sizes, and being told of them. */
export function noLayout(): void {
	vi.stubGlobal(
		"ResizeObserver",
		class {
			observe() {}
			unobserve() {}
			disconnect() {}
		},
	);
	vi.stubGlobal("CSS", { escape: (text: string) => text, supports: () => false });
	// Nothing has a size where nothing is drawn.
	vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(600);
	vi.spyOn(Element.prototype, "clientWidth", "get").mockReturnValue(800);
	vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(30);
}

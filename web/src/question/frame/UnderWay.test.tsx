// @vitest-environment jsdom
import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { answerTo } from "../../api/answers";
import { base } from "../model/sample";
import { UnderWay } from "./UnderWay";

let stopped = false;

function Asked() {
	const { queryKey } = answerTo(base);
	const found = useQuery({
		queryKey,
		queryFn: ({ signal }) =>
			new Promise<string>((_, reject) => {
				signal.addEventListener("abort", () => {
					stopped = true;
					reject(new Error("stopped"));
				});
			}),
		retry: false,
	});
	return (
		<UnderWay found={found} question={base} now={undefined} setLoading={() => {}}>
			{found.data}
		</UnderWay>
	);
}

beforeEach(() => {
	stopped = false;
	vi.useFakeTimers();
});
afterEach(() => {
	vi.useRealTimers();
	cleanup();
});

test("a wait of over a second says how long, can be stopped, and asked again", async () => {
	render(
		<QueryClientProvider client={new QueryClient()}>
			<Asked />
		</QueryClientProvider>,
	);
	expect(screen.getByRole("status").textContent).toContain("working it out");
	expect(screen.queryByRole("button", { name: "Stop" })).toBeNull();
	await act(() => vi.advanceTimersByTimeAsync(2300));
	expect(screen.getByText(/Working it out, 2 s/)).toBeTruthy();
	await act(async () => {
		screen.getByRole("button", { name: "Stop" }).click();
		await vi.advanceTimersByTimeAsync(50);
	});
	expect(stopped).toBe(true);
	expect(screen.getByText(/Stopped: nothing was worked out/)).toBeTruthy();
	await act(async () => {
		screen.getByRole("button", { name: "Ask again" }).click();
		await vi.advanceTimersByTimeAsync(1600);
	});
	expect(screen.getByText(/Working it out, 1 s/)).toBeTruthy();
});

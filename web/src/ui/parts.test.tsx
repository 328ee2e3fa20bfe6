// @vitest-environment jsdom
import { act, cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, beforeAll, expect, test, vi } from "vitest";
import { noLayout } from "../testing/noLayout";
import { DataTable } from "./DataTable";
import { Modal } from "./Modal";
import { type Pick, PickList } from "./PickList";
import { Popover } from "./Popover";
import { Segments } from "./Segments";
import { Toasts } from "./Toasts";
import { done } from "./toasts";

beforeAll(noLayout);
afterEach(cleanup);

function lines(n: number, pick: (key: string) => void, more: Partial<Pick> = {}): Pick[] {
	return Array.from({ length: n }, (_, at) => ({
		key: `k${at}`,
		words: `Line ${at}`,
		chosen: at === 0,
		pick: () => pick(`k${at}`),
		...more,
	}));
}

test("a line is picked by a click or by Enter, what is chosen is said, and Esc takes nothing back", async () => {
	const user = userEvent.setup();
	const picked = vi.fn();
	render(<PickList label="lines" picks={lines(4, picked)} focus />);
	expect(screen.getByRole("option", { name: "Line 0" }).ariaSelected ?? "true").toBe("true");
	await user.click(screen.getByRole("option", { name: "Line 2" }));
	expect(picked.mock.calls).toEqual([["k2"]]);
	await user.keyboard("{ArrowDown}{Enter}");
	expect(picked.mock.calls).toEqual([["k2"], ["k3"]]);
	await user.keyboard("{Escape}");
	expect(picked).toHaveBeenCalledTimes(2);
});

test("what is chosen already can be picked again, and what cannot be picked says why", async () => {
	const user = userEvent.setup();
	const picked = vi.fn();
	const [first, second] = lines(2, picked);
	if (!first || !second) throw new Error("two lines");
	render(<PickList label="lines" picks={[first, { ...second, why: "There is no table." }]} />);
	await user.click(screen.getByRole("option", { name: "Line 0" }));
	expect(picked.mock.calls).toEqual([["k0"]]);
	await user.click(screen.getByText("There is no table."));
	expect(picked).toHaveBeenCalledTimes(1);
});

test("a long list is searched while one types, and the arrows go through what is found", async () => {
	const user = userEvent.setup();
	const picked = vi.fn();
	render(<PickList label="classes" picks={lines(40, picked)} focus />);
	await user.type(screen.getByLabelText("Search classes"), "line 3");
	expect(screen.getAllByRole("option")).toHaveLength(13);
	await user.keyboard("{ArrowDown}{Enter}");
	expect(picked).toHaveBeenCalledTimes(1);
	await user.clear(screen.getByLabelText("Search classes"));
	await user.type(screen.getByLabelText("Search classes"), "nowhere");
	expect(screen.getByText("Nothing is called so.")).toBeTruthy();
});

const rows = (n: number) => Array.from({ length: n }, (_, at) => ({ name: `Row ${at}`, n: at }));
const columns = [
	{ key: "name", label: "name", side: "left" as const, cell: (row: { name: string }) => row.name },
	{ key: "n", label: "n", cell: (row: { n: number }) => row.n },
];

test("a head sorts and says how it is sorted; a row's name heads the row", async () => {
	const user = userEvent.setup();
	const sort = vi.fn();
	const shared = { caption: "Rows", columns, rows: rows(3), sort };
	render(<DataTable {...shared} keyOf={(row) => row.name} sorted={{ by: "n", dir: "asc" }} />);
	const head = screen.getByRole("columnheader", { name: /^n( ↑)?$/ });
	expect(head.getAttribute("aria-sort")).toBe("ascending");
	await user.click(within(head).getByRole("button"));
	await user.click(screen.getByRole("button", { name: "name" }));
	await user.keyboard("{Shift>}");
	await user.click(screen.getByRole("button", { name: "name" }));
	await user.keyboard("{/Shift}");
	expect(sort.mock.calls).toEqual([
		[{ by: "n", dir: "desc" }, false],
		[{ by: "name", dir: "asc" }, false],
		[{ by: "name", dir: "asc" }, true],
	]);
	expect(screen.getByRole("rowheader", { name: "Row 2" })).toBeTruthy();
});

test("of many rows some are drawn, on paper all; a reader of the screen hears how many there are", () => {
	const { container } = render(
		<DataTable caption="Rows" columns={columns} rows={rows(500)} keyOf={(row) => row.name} />,
	);
	const drawn = () => container.querySelectorAll("tbody th").length;
	expect(drawn()).toBeGreaterThan(10);
	expect(drawn()).toBeLessThan(100);
	expect(screen.getByRole("table").getAttribute("aria-rowcount")).toBe("501");
	act(() => void window.dispatchEvent(new Event("beforeprint")));
	expect(drawn()).toBe(500);
	act(() => void window.dispatchEvent(new Event("afterprint")));
	expect(drawn()).toBeLessThan(100);
});

test("of many columns those in view are drawn beside the names, on paper all", () => {
	const marks = Array.from({ length: 120 }, (_, n) => ({
		key: `q${n}`,
		label: `Q${n}`,
		cell: (row: { n: number }) => String(row.n + n),
	}));
	const { container } = render(
		<DataTable
			caption="Marks"
			columns={[...columns, ...marks]}
			rows={rows(10)}
			keyOf={(row) => row.name}
		/>,
	);
	const texts = () =>
		[...container.querySelectorAll("tbody tr:first-child > *")].filter((cell) => cell.textContent);
	const spans = () =>
		[...container.querySelectorAll<HTMLTableCellElement>("tbody tr:first-child > *")].reduce(
			(sum, cell) => sum + cell.colSpan,
			0,
		);
	expect(texts().length).toBeGreaterThan(8);
	expect(texts().length).toBeLessThan(40);
	expect(spans()).toBe(122);
	expect(texts().at(-1)?.getAttribute("aria-colindex")).toBe(String(texts().length));
	expect(screen.getByRole("table").getAttribute("aria-colcount")).toBe("122");
	expect(screen.getAllByRole("columnheader")).toHaveLength(122);
	act(() => void window.dispatchEvent(new Event("beforeprint")));
	expect(texts()).toHaveLength(122);
});

test("what is opened stands below its row, and a heading above the first of its rows", () => {
	render(
		<DataTable
			caption="Rows"
			columns={columns}
			rows={rows(4)}
			keyOf={(row) => row.name}
			under={(row) => (row.n < 2 ? "low" : "high")}
			below={(row) => row.n === 1 && <p>more of it</p>}
		/>,
	);
	const all = screen.getAllByRole("row").map((row) => row.textContent);
	expect(all).toEqual([
		"namen",
		"low",
		"Row 00",
		"Row 11",
		"more of it",
		"high",
		"Row 22",
		"Row 33",
	]);
});

test("a panel opens at its button, closes with Esc, and the focus goes back", async () => {
	const user = userEvent.setup();
	render(
		<Popover label="Choose" title="Things" className="" trigger="Choose">
			{(close) => (
				<button type="button" onClick={close}>
					Take it
				</button>
			)}
		</Popover>,
	);
	const button = screen.getByRole("button", { name: "Choose" });
	await user.click(button);
	expect(screen.getByRole("dialog", { name: "Things" })).toBeTruthy();
	await user.keyboard("{Escape}");
	expect(screen.queryByRole("dialog")).toBeNull();
	await waitFor(() => expect(document.activeElement).toBe(button));
	await user.click(button);
	await user.click(screen.getByRole("button", { name: "Take it" }));
	expect(screen.queryByRole("dialog")).toBeNull();
});

function Place() {
	const [open, setOpen] = useState(false);
	return (
		<>
			<button type="button" onClick={() => setOpen(true)}>
				Open
			</button>
			<Modal title="Keys" open={open} setOpen={setOpen} width={300}>
				{(close) => (
					<button type="button" onClick={close}>
						Close
					</button>
				)}
			</Modal>
		</>
	);
}

test("a panel above everything takes the focus and gives it back", async () => {
	const user = userEvent.setup();
	render(<Place />);
	await user.click(screen.getByRole("button", { name: "Open" }));
	const panel = screen.getByRole("dialog", { name: "Keys" });
	expect(panel.contains(document.activeElement)).toBe(true);
	await user.keyboard("{Escape}");
	expect(screen.queryByRole("dialog")).toBeNull();
});

test("one of a few ways holds, and holding it again changes nothing", async () => {
	const user = userEvent.setup();
	const choose = vi.fn();
	const options = [
		{ key: "a", words: "As it is" },
		{ key: "b", words: "As boxes" },
	] as const;
	render(<Segments label="View" options={options} chosen="a" choose={choose} />);
	expect(screen.getByRole("radio", { name: "As it is" }).getAttribute("aria-checked")).toBe("true");
	await user.click(screen.getByRole("radio", { name: "As it is" }));
	expect(choose).not.toHaveBeenCalled();
	await user.click(screen.getByRole("radio", { name: "As boxes" }));
	expect(choose.mock.calls).toEqual([["b"]]);
});

test("what was done is said with the way back, once", async () => {
	const user = userEvent.setup();
	const undo = vi.fn();
	render(<Toasts />);
	act(() => done("Mathematics is undone.", undo));
	expect(screen.getByText("Mathematics is undone.")).toBeTruthy();
	await user.click(screen.getByRole("button", { name: "Undo" }));
	expect(undo).toHaveBeenCalledTimes(1);
	expect(screen.queryByText("Mathematics is undone.")).toBeNull();
});

"""A stranger's district as lists and on paper, by the screens: what must come out, from the rows.

Thirty students of Storvik in two schools. Names and tests hold the signs that files and heads are
put together with: “Unit 3: Forces”, “May, first go”, a school called “St "Olaf", upper”. Scores run
in halves. Student n scored 10 + n / 2 in May and 4 more in June, but:

| who | what                                            | what must come out                       |
|-----|-------------------------------------------------|------------------------------------------|
| 0   | scored 0 in May, a result like any other        | 0.0, not blank; June 14.0                |
| 1   | was absent in June                              | – absent, and one missing in the last row|
| 2   | is in no file of results                        | – in both columns                        |
| 3,4 | are called alike, to the letter                 | two rows, told apart by their numbers    |
| 9   | steps 1, 2, 10 of the scale in that order       | sorted as the scale goes, not as text    |
"""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from pathlib import Path
from statistics import fmean

import pytest
from playwright.sync_api import Page, expect
from python_calamine import CalamineWorkbook
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, answered
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings

SIZE = 30
SCHOOLS = ('St "Olaf", upper', "Storvik: north")
TEST, SUBJECT = "Unit 3: Forces", "Science (general)"
SITTINGS = {"May, first go": "2026-05-04", "June": "2026-06-08"}


def number(n: int) -> str:
    return f"0{n:02d}/A"


def name(n: int) -> tuple[str, str]:
    return ("Bo", "Ek") if n in (3, 4) else (f"Given{n:02d}", f"O'Dahl-{n:02d}")


def score(n: int, sitting: str) -> float | None:
    if n == 2 or (n == 1 and sitting == "June"):
        return None
    base = 0.0 if n == 0 and sitting != "June" else 10 + n / 2
    return base + (4 if sitting == "June" else 0)


def step(n: int) -> str:
    return ("1", "2", "10")[n % 3]


def quoted(*cells: object) -> str:
    return ";".join('"' + str(cell).replace('"', '""') + '"' for cell in cells)


def roster() -> str:
    rows = [quoted(number(n), *name(n), SCHOOLS[n % 2], 8) for n in range(SIZE)]
    return "\n".join(["Student number;Given name;Family name;School;Year level", *rows]) + "\n"


def results() -> str:
    lines = ["Student number;Test;Subject;Sitting;Test date;Score;Level"]
    for n in range(SIZE):
        for sitting, date in SITTINGS.items():
            told = score(n, sitting)
            if n != 2:
                cell = "absent" if told is None else f"{told:g}"
                level = "" if told is None else step(n)
                lines.append(quoted(number(n), TEST, SUBJECT, sitting, date, cell, level))
    return "\n".join(lines) + "\n"


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def bring(page: Page, kind: str, file: str, text: str, button: str) -> None:
    page.goto("/intake")
    page.get_by_label(f"{kind}: choose a file").set_input_files(
        {"name": file, "mimeType": "text/csv", "buffer": text.encode()}
    )
    with page.expect_response("**/keep"):
        page.get_by_role("button", name=re.compile(button)).click()


def listed(page: Page) -> None:
    expect(page.get_by_role("region", name="List")).to_have_attribute("aria-busy", "false")


def rows(page: Page) -> dict[str, list[str]]:
    """The cells of each row by the student's number."""
    out = {}
    for row in page.locator("tbody tr").all():
        cells = [" ".join(cell.split()) for cell in row.locator("th, td").all_inner_texts()]
        out[next(cell for cell in cells if cell.endswith("/A"))] = cells
    return out


def add(page: Page, column: str) -> None:
    page.get_by_role("button", name=re.compile("Add a column")).click()
    page.get_by_role("dialog").get_by_role("option", name=re.compile(column)).first.click()
    page.keyboard.press("Escape")
    listed(page)


def test_a_strangers_list_as_it_was_written_down(page: Page) -> None:
    page.get_by_label("Login").fill("freja")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation", name="Places")).to_be_visible()
    page.goto("/intake")
    page.get_by_label("A roster: choose a file").set_input_files(
        {"name": "elever.csv", "mimeType": "text/csv", "buffer": roster().encode()}
    )
    page.get_by_role("link", name="Columns").click()
    page.get_by_label("School year").fill("2025-26")
    page.get_by_label("School year").press("Enter")
    expect(page.get_by_role("table")).to_have_attribute("aria-busy", "false")
    with page.expect_response("**/keep"):
        page.get_by_role("button", name=re.compile("^Keep 30 ")).click()
    scale = ["Test;Subject;Score;Step;Pass", *(
        quoted(TEST, SUBJECT, "level", one, "yes" if one == "10" else "no")
        for one in ("1", "2", "10"))]  # fmt: skip
    page.goto("/intake")
    page.get_by_role("combobox", name="Other tables:").select_option("scale")
    page.get_by_label("Other tables: choose a file").set_input_files(
        {"name": "trin.csv", "mimeType": "text/csv", "buffer": "\n".join(scale).encode()}
    )
    with page.expect_response("**/keep"):
        page.get_by_role("button", name=re.compile("^Keep 3")).click()
    bring(page, "Results", "prøve.csv", results(), "^Keep 1?[0-9]+ results")
    page.get_by_role("link", name="Compare").click()
    answered(page)
    page.get_by_role("region", name="Coverage").get_by_role("button").first.click()
    drawer = page.get_by_role("complementary", name="Students")
    drawer.get_by_role("button", name="Keep these students as a list").click()
    page.get_by_label("Name of the list").fill("=Everybody")
    page.get_by_role("button", name="Keep the list").click()
    page.get_by_role("link", name="Open “=Everybody”").click()
    listed(page)
    add(page, "Science .general., every sitting")
    shown = rows(page)
    assert len(shown) == SIZE
    for n in range(SIZE):
        june, may = shown[number(n)][4], shown[number(n)][6]
        assert may == cell(n, "May, first go")
        assert june == cell(n, "June")
    assert shown[number(3)][0] == shown[number(4)][0] == "Bo Ek"
    (last,) = page.locator("tfoot tr").all()
    told = [" ".join(one.split()) for one in last.locator("th, td").all_inner_texts()]
    assert f"{mean('June'):.1f}" in told[-3]
    assert told[-3].endswith("28 of 30")
    assert f"{mean('May, first go'):.1f}" in told[-1]
    assert told[-1].endswith("29 of 30")
    accessible(page)
    goes_out_and_comes_back(page)


def cell(n: int, sitting: str) -> str:
    told = score(n, sitting)
    if told is None:
        return "– no row" if n == 2 else "– absent"
    return f"{told:.1f} {step(n)}"


def mean(sitting: str) -> float:
    return fmean(one for n in range(SIZE) if (one := score(n, sitting)) is not None)


def goes_out_and_comes_back(page: Page) -> None:
    """As a grid, whose heads are made of names that hold their own signs."""
    page.get_by_role("button", name="Take out as CSV").click()
    with page.expect_download() as got:
        page.get_by_role("button", name="A grid to fill in and bring back").click()
    book = CalamineWorkbook.from_filelike(io.BytesIO(Path(got.value.path()).read_bytes()))
    heads, *lines = book.get_sheet_by_index(0).to_python()
    assert heads[2:] == [
        "“Unit 3: Forces”: “Science (general)”, June (raw mark)",
        "“Unit 3: Forces”: “Science (general)”, “May, first go” (raw mark)",
    ]
    by_number = {str(line[0]): line for line in lines}
    assert by_number["000/A"][3] == 0
    by_number["002/A"][2] = 7.5
    by_number["000/A"][3] = 0.5
    text = "\n".join(quoted(*line) for line in (heads, *lines))
    page.goto("/intake")
    page.get_by_label("Results: choose a file").set_input_files(
        {"name": "=Everybody.csv", "mimeType": "text/csv", "buffer": text.encode()}
    )
    panel = page.get_by_role("complementary")
    expect(panel.get_by_text("New results").locator("..")).to_have_text("New results1")
    expect(panel.get_by_text("Changed results").locator("..")).to_have_text("Changed results1")
    page.screenshot(path="/dev/shm/sl.png")

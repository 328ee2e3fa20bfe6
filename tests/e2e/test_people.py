"""People, walked through: from a row that is behind to a printed, annotated list; a student's page;
a list shared and seen in one's own scope; names hidden; many rows; without a mouse."""

from __future__ import annotations

import io
import json
import re
from pathlib import Path
from statistics import fmean

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader
from python_calamine import CalamineWorkbook
from tests.e2e.screens import accessible, answered, pick, sign_in
from tests.support import Place

SPRING = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
FERN = {"all": [{"field": "school", "in": ["Fernhollow"]}]}


def listed(page: Page) -> None:
    expect(page.get_by_role("region", name="List")).to_have_attribute("aria-busy", "false")


def keep(page: Page, name: str, question: dict[str, object]) -> int:
    """A list kept over HTTP, as the person who is signed in."""
    made = page.request.post(
        "/api/lists", data=json.dumps({"name": name, "question": question}),
        headers={"Content-Type": "application/json"},
    )  # fmt: skip
    assert made.status == 201, made.text()
    return int(made.json()["id"])


def downloaded(page: Page, button: str) -> bytes:
    with page.expect_download() as got:
        page.get_by_role("button", name=button, exact=True).click()
    return Path(got.value.path()).read_bytes()


def test_from_a_row_to_a_printed_annotated_list(page: Page) -> None:
    """Nine choices: the row, keep, open, a column, a note, print."""
    sign_in(page)
    answered(page)
    page.get_by_role("button", name=re.compile("^Fernhollow ")).first.click()
    drawer = page.get_by_role("complementary", name="Students")
    drawer.get_by_role("button", name="Keep these students as a list").click()
    page.get_by_label("Name of the list").fill("Fernhollow, behind")
    page.get_by_role("button", name="Keep the list").click()
    page.get_by_role("link", name="Open “Fernhollow, behind”").click()
    listed(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("Fernhollow, behind")
    rows = page.get_by_role("row")
    counted = rows.count()
    assert counted > 20
    page.get_by_role("button", name="Add a column").click()
    page.get_by_label("Search columns").fill("notes")
    pick(page, "notes").click()
    page.keyboard.press("Escape")
    listed(page)
    expect(page.get_by_role("columnheader", name="Notes")).to_be_visible()
    page.get_by_role("button", name="Write a note").first.click()
    page.get_by_role("textbox", name="Note").fill("ask about the ferry")
    page.get_by_role("button", name="Add the note").click()
    expect(page.get_by_role("cell", name=re.compile("ask about the ferry"))).to_be_visible()
    accessible(page)
    paper = PdfReader(io.BytesIO(downloaded(page, "PDF")))
    text = "\n".join(sheet.extract_text() for sheet in paper.pages)
    assert "Fernhollow, behind" in text
    assert "ask about the ferry" in text
    assert len(paper.pages) > 1
    # Heads stand on every sheet, and each says which it is.
    assert all("Student" in sheet.extract_text() for sheet in paper.pages[:-1])
    assert f"1 / {len(paper.pages)}" in re.sub(r"\s+", " ", paper.pages[0].extract_text())


@pytest.fixture
def eighth(page: Page) -> int:
    """The list of 8B at Netherby, with three sittings, the span and notes."""
    sign_in(page)
    made = keep(page, "8B fractions", {
        "what": [SPRING], "show": "students",
        "who": {"as_of": "today", "all": [{"field": "class", "in": ["Netherby: 8B, 2025-26"]}]},
        "columns": [
            {"characteristic": "Meal support"},
            {"measure": {**SPRING, "sitting": "each"}},
            {"measure": {"derive": "span", "of": SPRING, "against": {"prior": {}}}},
            "notes",
        ],
        "focus": [{"characteristic": "Meal support", "in": ["yes"]}],
    })  # fmt: skip
    page.goto(f"/people?list={made}")
    listed(page)
    return made


def cells(page: Page) -> list[list[str]]:
    """The rows of the table as they read."""
    return [
        [" ".join(cell.split()) for cell in row.locator("th, td").all_inner_texts()]
        for row in page.locator("tbody tr").all()
    ]


def test_a_list_is_changed_and_stays_so(page: Page, eighth: int) -> None:
    page.get_by_role("button", name="Meal support", exact=True).click()
    listed(page)
    page.get_by_role("button", name=re.compile("^Spring 2026$")).click(modifiers=["Shift"])
    listed(page)
    shown = cells(page)
    support = [row[2] for row in shown]
    assert support == sorted(support)
    within = [int(row[5].split()[0]) for row in shown if row[2] == "no" and row[5][0].isdigit()]
    assert within == sorted(within)
    first = page.get_by_role("list", name="Columns").get_by_role("listitem").nth(2)
    expect(first).to_contain_text("every sitting")
    first.get_by_role("button", name=re.compile("further to the left")).press("Enter")
    listed(page)
    heads = page.locator("thead th[scope=col]")
    expect(heads.nth(2)).to_contain_text("Spring 2024")
    expect(heads.nth(5)).to_contain_text("Meal support")
    page.get_by_role("button", name="Narrow by Meal support").click()
    form = page.get_by_role("dialog", name="Narrow by Meal support")
    pick(form, "no").click()
    form.get_by_role("button", name="Narrow", exact=True).click()
    listed(page)
    assert {row[3 + 2] for row in cells(page)} == {"no"}
    page.get_by_label("Grouped by").select_option(label="Sex")
    listed(page)
    expect(page.get_by_role("rowheader", name=re.compile(r"^F · \d+$"))).to_be_visible()
    page.reload()
    listed(page)
    expect(page.get_by_role("rowheader", name=re.compile(r"^F · \d+$"))).to_be_visible()
    expect(page.get_by_role("columnheader", name=re.compile("Meal support"))).to_have_attribute(
        "aria-sort", "ascending"
    )
    accessible(page)


def test_the_workbook_holds_what_the_screen_shows(page: Page, eighth: int) -> None:
    shown = cells(page)
    book = CalamineWorkbook.from_filelike(io.BytesIO(downloaded(page, "Workbook")))
    heads, *lines = book.get_sheet_by_index(1).to_python()
    # Under the list and a blank line stands what its columns come to.
    assert not any(lines[len(shown)])
    totals, lines = lines[len(shown) + 1 :], lines[: len(shown)]
    place = {str(head): at for at, head in enumerate(heads)}
    for line, row in zip(lines, shown, strict=True):
        assert [str(line[0]), str(line[1])] == row[:2]
        assert line[place["Meal support"]] == row[2]
        value = line[place["Mathematics, spring 2026"]]
        level = line[place["Mathematics, spring 2026: level"]]
        why = line[place["Mathematics, spring 2026: why blank"]]
        assert row[5] == (f"– {why}" if value == "" else f"{value:.0f} {level}")
    assert book.sheet_names[0] == "Notes"
    scores = [line[place["Mathematics, spring 2026"]] for line in lines]
    (mean,) = [line for line in totals if line[0] == "all: mean"]
    assert mean[place["Mathematics, spring 2026"]] == pytest.approx(
        fmean(score for score in scores if score != "")
    )


def test_a_list_goes_out_as_a_grid_is_filled_in_and_comes_back(page: Page, eighth: int) -> None:
    shown = cells(page)
    page.get_by_role("button", name="Take out as CSV").click()
    book = CalamineWorkbook.from_filelike(
        io.BytesIO(downloaded(page, "A grid to fill in and bring back"))
    )
    heads, *lines = book.get_sheet_by_index(0).to_python()
    assert len(lines) == len({row[1] for row in shown})
    column = [str(head) for head in heads].index(
        "Spring survey: Mathematics, spring 2026 (scaled score)"
    )
    had = next(line for line in lines if line[column] != "")
    was, had[column] = had[column], had[column] + 1
    text = "\n".join(",".join(f'"{cell}"' for cell in line) for line in (heads, *lines))
    page.goto("/intake")
    page.get_by_label("Results: choose a file").set_input_files(
        {"name": "filled.csv", "mimeType": "text/csv", "buffer": text.encode()}
    )
    panel = page.get_by_role("complementary")
    expect(panel.get_by_text("Changed results").locator("..")).to_have_text("Changed results1")
    expect(panel.get_by_text("New results").locator("..")).to_have_text("New results0")
    assert was


def test_a_school_lead_sees_own_students_in_a_shared_list(page: Page) -> None:
    sign_in(page)
    made = keep(page, "Whole district", {"what": [SPRING], "show": "students"})
    page.goto(f"/people?list={made}")
    listed(page)
    page.get_by_role("button", name="Share the list").click()
    pick(page, "Rowan Pike").click()
    page.get_by_role("button", name="Share", exact=True).last.click()
    expect(page.get_by_text("Done.")).to_be_visible()
    page.context.clear_cookies()
    page.goto("/")
    sign_in(page, "rowan")
    page.get_by_role("link", name="People").click()
    page.get_by_role("link", name=re.compile("^Whole district")).click()
    listed(page)
    expect(page.get_by_role("heading", level=1)).to_have_text("Whole district")
    assert "in Fernhollow" in page.get_by_role("region", name="List").inner_text()
    for other in ("Brackwater", "Netherby", "Tarn Academy"):
        assert other not in page.get_by_role("main").inner_text()
    expect(page.get_by_role("button", name="Share the list")).to_have_count(0)


def test_many_rows_are_drawn_as_they_come_into_view(page: Page) -> None:
    sign_in(page)
    made = keep(page, "Everybody", {
        "what": [SPRING], "who": {"as_of": "today"}, "show": "students",
        "columns": [{"field": "school"}, {"measure": SPRING}],
    })  # fmt: skip
    page.goto(f"/people?list={made}")
    listed(page)
    told = page.get_by_role("rowheader", name=re.compile("^[0-9,]+ students$")).inner_text()
    assert int(told.split()[0].replace(",", "")) > 1500
    assert page.locator("tbody tr").count() < 120
    frame = page.locator("table").locator("xpath=..")
    frame.evaluate("e => e.scrollTo(0, e.scrollHeight)")
    expect(page.locator("tbody tr").last).to_be_visible()


def test_a_student_is_found_and_their_page_reads_well(page: Page) -> None:
    sign_in(page)
    page.get_by_role("link", name="People").click()
    page.get_by_label(re.compile("^Find a student by")).fill("capston")
    page.get_by_role("link", name=re.compile("Capstan")).first.click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Capstan")
    name = page.get_by_role("heading", level=1).inner_text()
    expect(page.get_by_role("complementary", name="What it says")).to_contain_text("Marked:")
    expect(page.get_by_role("img", name=re.compile("^Mathematics, "))).to_be_visible()
    accessible(page)
    page.get_by_role("link", name="People").click()
    expect(page.get_by_role("link", name=re.compile(f"^student {name}"))).to_be_visible()
    page.get_by_role("link", name=re.compile(f"^student {name}")).click()
    page.set_viewport_size({"width": 390, "height": 844})
    wide = page.evaluate("document.querySelector('main').scrollWidth")
    assert wide <= 390
    page.set_viewport_size({"width": 1280, "height": 800})
    page.get_by_role("button", name="Print for home").click()
    expect(page.get_by_role("heading", name="Latest results")).to_be_visible()
    page.get_by_label("Say how other students do").uncheck()
    home = page.get_by_role("main").inner_text()
    assert "started alike" not in home
    accessible(page)


def test_with_names_hidden_no_screen_and_no_paper_shows_one(page: Page, eighth: int) -> None:
    names = [row[0] for row in cells(page)]
    numbers = [row[1] for row in cells(page)]
    page.get_by_role("button", name=re.compile("your account")).click()
    page.get_by_label("Hide students' names").click()
    expect(page.get_by_text("Names hidden")).to_be_visible()
    page.keyboard.press("Escape")
    listed(page)
    expect(page.get_by_role("rowheader", name=re.compile("^Student [0-9]+$")).first).to_be_visible()
    paper = PdfReader(io.BytesIO(downloaded(page, "PDF")))
    text = "\n".join(sheet.extract_text() for sheet in paper.pages)
    screen = page.get_by_role("main").inner_text()
    book = CalamineWorkbook.from_filelike(io.BytesIO(downloaded(page, "Workbook")))
    told = str([book.get_sheet_by_name(name).to_python() for name in book.sheet_names])
    for one in (*names, *numbers):
        assert one not in screen
        assert one not in text
        assert one not in told


def test_since_one_looked_the_changed_rows_are_named(
    page: Page, served: tuple[Place, str], eighth: int
) -> None:
    number = cells(page)[0][1]
    served[0].bring(
        "results", f"Number,Scaled score\n{number},301\n", name="late.csv",
        test="Spring survey", subject="Mathematics", sitting="spring 2026", date="2026-05-12",
    )  # fmt: skip
    page.reload()
    listed(page)
    page.get_by_role("button", name="Since you looked: 1 changed").click()
    expect(page.get_by_role("dialog", name="What changed")).to_contain_text("301")

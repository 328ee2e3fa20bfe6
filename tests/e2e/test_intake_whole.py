"""Intake through the screens: a wide workbook, offers, settling, undo explained, grid, scale."""

from __future__ import annotations

import re
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from tests.e2e.screens import accessible, sign_in, summer_exam, year_8_of_netherby
from tests.support import Place


@pytest.fixture
def people(served: tuple[Place, str]) -> list[dict[str, str]]:
    return year_8_of_netherby(served[0].settings.home / "demo")


@pytest.fixture
def workbook(people: list[dict[str, str]], tmp_path: Path) -> Path:
    return summer_exam(tmp_path, people)


def intake(page: Page) -> None:
    sign_in(page)
    page.get_by_role("link", name="Intake").click()
    expect(page.get_by_role("heading", name="What was kept")).to_be_visible()
    page.wait_for_load_state("networkidle")  # files that wait push what is below them down


def test_a_wide_workbook_with_an_offer(page: Page, workbook: Path) -> None:
    intake(page)
    page.get_by_label("Results: choose a file").set_input_files(workbook)
    expect(page.get_by_text("20 rows, 40 results, workbook")).to_be_visible()
    found = page.get_by_role("region", name="What was found")
    expect(found).to_contain_text("The subject “Maths” is near “Mathematics”")
    expect(found).to_contain_text("Column names stand in 2 lines")
    accessible(page)
    page.get_by_label("The subject “Maths” is near “Mathematics”: choose").select_option("same")
    expect(found.get_by_text("Settled")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Accept 99")).click()
    expect(found).to_contain_text("1 number settled one by one")
    expect(page.get_by_role("button", name="Keep 40 results")).to_be_enabled()
    page.get_by_role("link", name="Columns").click()
    expect(page.get_by_role("button", name="Art: what Art grade is about. Change")).to_be_visible()
    accessible(page)
    page.get_by_role("link", name="Match").click()
    page.get_by_role("button", name="Keep 40 results").click()
    expect(page.get_by_role("heading", name="What was kept")).to_be_visible()
    expect(page.get_by_role("region", name="Remembered numbers")).to_contain_text(
        "Summer exam.xlsx"
    )
    page.get_by_role("button", name=re.compile("^Undo Art and Mathematics")).click()
    expect(page.get_by_text("2 sittings will have no result left")).to_be_visible()
    expect(page.get_by_text("1 remembered number rests until then.")).to_be_visible()
    accessible(page)
    page.get_by_role("button", name="Undo Art and Mathematics, 2025-26", exact=True).click()
    expect(page.get_by_text("· undone")).to_be_visible()
    expect(page.get_by_role("region", name="Remembered numbers")).to_have_count(0)


def test_rows_set_aside_are_settled_from_the_history(
    page: Page, people: list[dict[str, str]], tmp_path: Path
) -> None:
    path = tmp_path / "Quick quiz.csv"
    number = people[0]["Student number"]
    path.write_text(f"No,Mark\n{number},5\n000001,6\n", encoding="utf-8")
    intake(page)
    page.get_by_label("Results: choose a file").set_input_files(path)
    page.get_by_label("1 result matches no student: choose").select_option("set_aside")
    page.get_by_label("When was this?: choose").select_option("summer")
    page.get_by_role("button", name="Keep 1 result").click()
    page.get_by_role("button", name=re.compile("1 rows of Quick quiz.* set aside")).click()
    page.get_by_role("button", name="Settle 1 row now").click()
    expect(page.get_by_text("1 result matches no student")).to_be_visible()
    expect(page.get_by_text("Quick quiz.csv, 1 row")).to_be_visible()


def test_saying_columns_stays_with_them_until_all_is_said(page: Page, tmp_path: Path) -> None:
    path = tmp_path / "schueler.csv"
    path.write_text("Kennnummer;Schule;Stufe\nS-1;Hafen;7\nS-2;Hafen;8\n", encoding="utf-8")
    intake(page)
    page.get_by_label("A roster: choose a file").set_input_files(path)
    expect(page.get_by_role("alert")).to_contain_text("must have a column with student numbers")
    for column, role in (("Kennnummer", "number"), ("Schule", "school"), ("Stufe", "year_level")):
        page.get_by_label(f"{column} is", exact=True).select_option(role)
        expect(page.get_by_label(f"{column} is", exact=True)).to_have_value(role)
        expect(page.get_by_role("table")).to_have_attribute("aria-busy", "false")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("link", name="Match").click()
    expect(page.get_by_role("button", name="Keep 2 rows")).to_be_enabled()
    page.get_by_role("link", name="Intake").click()
    page.get_by_role("button", name="Throw away schueler.csv").click()


def test_an_archive_waits_as_its_tables_and_a_bad_file_among_several_is_said(
    page: Page, tmp_path: Path
) -> None:
    path = tmp_path / "forms.zip"
    with zipfile.ZipFile(path, "w") as archive:
        for name in ("9A.csv", "9B.csv"):
            archive.writestr(name, "No,Mark\n000001,5\n")
    good, empty = tmp_path / "9C.csv", tmp_path / "9D.csv"
    good.write_text("No,Mark\n000001,5\n", encoding="utf-8")
    empty.write_text("", encoding="utf-8")
    intake(page)
    page.get_by_label("Results: choose a file").set_input_files(path)
    for name in ("9A.csv", "9B.csv"):
        expect(page.get_by_role("link", name=name)).to_be_visible()
    page.get_by_label("Results: choose a file").set_input_files([good, empty])
    expect(page.get_by_role("alert")).to_contain_text("9D.csv is empty")
    expect(page.get_by_role("link", name="9C.csv")).to_be_visible()
    accessible(page)
    for name in ("9A.csv", "9B.csv", "9C.csv"):
        page.get_by_role("button", name=f"Throw away {name}").click()
        expect(page.get_by_role("link", name=name)).to_have_count(0)


def test_a_grid_is_typed_and_pasted_and_shows_what_would_change(page: Page) -> None:
    intake(page)
    page.get_by_role("link", name="A grid of students by results").click()
    whose = page.get_by_label("Whose results")
    expect(whose).to_be_visible()
    options = whose.locator("option").all_inner_texts()
    whose.select_option(label=next(o for o in options if o.startswith("8B · Netherby")))
    column = page.get_by_role("group", name="Column 1")
    column.get_by_label("Test").fill("Harbour certificate")
    column.get_by_label("Subject").fill("Art")
    column.get_by_label("Sitting").fill("June 2027")
    page.get_by_role("button", name="Open the grid").click()
    first = page.locator("[data-at='0:0']")
    first.fill("Q")
    status = page.get_by_role("status")
    expect(status).to_contain_text("“Q” is not on the scale")
    expect(page.get_by_role("button", name="See what would be kept")).to_be_disabled()
    accessible(page)
    first.press("Escape")
    first.fill("a*")
    first.press("Enter")
    expect(page.locator("[data-at='1:0']")).to_be_focused()
    page.evaluate(
        "const data = new DataTransfer(); data.setData('text/plain', 'B\\nC\\n');"
        "document.activeElement.dispatchEvent("
        "new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true}))"
    )
    expect(status).to_contain_text("3 rows changed")
    page.get_by_role("button", name="See what would be kept").click()
    expect(page.get_by_role("button", name="Keep 3 results")).to_be_enabled()
    expect(page.get_by_role("complementary")).to_contain_text("Harbour certificate: Art, June 2027")


def test_the_grid_is_taken_out_as_a_workbook(page: Page) -> None:
    intake(page)
    page.get_by_role("link", name="A grid of students by results").click()
    whose = page.get_by_label("Whose results")
    expect(whose).to_be_visible()
    options = whose.locator("option").all_inner_texts()
    whose.select_option(label=next(o for o in options if o.startswith("8B · Netherby")))
    page.get_by_label("Test").fill("Spring survey")
    page.get_by_label("Subject").fill("Reading")
    page.get_by_label("Sitting").fill("spring 2026")
    page.get_by_label("Holds").select_option("scaled")
    with page.expect_download() as download:
        page.get_by_role("button", name="Take it out as a workbook").click()
    path = download.value.path()
    page.goto("/intake")
    page.get_by_label("Results: choose a file").set_input_files(
        {"name": "grid.xlsx", "mimeType": "", "buffer": path.read_bytes()}
    )
    panel = page.get_by_role("complementary")
    expect(panel.get_by_text("Unchanged").locator("..")).to_contain_text(re.compile(r"[1-9]\d"))
    expect(panel.get_by_text("Changed results").locator("..")).to_have_text("Changed results0")


def test_a_scale_is_changed_on_screen(page: Page) -> None:
    intake(page)
    page.get_by_role("link", name="A scale of grades or levels").click()
    page.get_by_label("Start from").select_option(label="Harbour certificate, grade")
    expect(page.get_by_label("Step 1", exact=True)).to_have_value("U")
    page.get_by_label("Step 2 passes").check()
    page.get_by_label("Step 3 passes").uncheck()
    expect(page.get_by_role("status")).to_contain_text("The pass line is one line")
    page.get_by_label("Step 2 passes").uncheck()
    accessible(page)
    page.get_by_role("button", name="See what would be kept").click()
    expect(page.get_by_role("heading", name="Scale of Harbour certificate")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Keep"))).to_be_enabled()


def test_files_of_an_archive_are_said_once_and_kept_together(
    page: Page, people: list[dict[str, str]], tmp_path: Path
) -> None:
    path = tmp_path / "Autumn check.zip"
    numbers = [person["Student number"] for person in people]
    with zipfile.ZipFile(path, "w") as archive:
        for name, some in (("8A", numbers[:8]), ("8B", numbers[8:])):
            rows = "".join(f"{n},{at + 10},{'AB'[at % 2]}\n" for at, n in enumerate(some))
            doubled = f"{some[0]},44,A\n{some[1]},12,B\n" if name == "8A" else ""
            archive.writestr(f"{name}.csv", f"Number,Mark,Grade\n{rows}{doubled}")
    intake(page)
    page.get_by_label("Results: choose a file").set_input_files(path)
    page.get_by_role("link", name="8A.csv").click()
    expect(page.get_by_role("region", name="Assumed")).to_contain_text("test Autumn check")
    look = page.get_by_role("figure", name="First look: Autumn check, 2025-26, grade")
    expect(look).to_contain_text("n 6, 0 missing")

    found = page.get_by_role("region", name="What was found")
    expect(found).to_contain_text("2 results there twice, with different scores")
    one_by_one = found.get_by_role("list", name="One by one")
    one_by_one.get_by_label("line 10: 44, A").click()
    expect(one_by_one.get_by_label("line 10: 44, A")).to_be_checked()
    accessible(page)
    keep = page.get_by_role("button", name=re.compile("^Keep 7 results"))
    expect(keep).to_be_disabled()
    one_by_one.get_by_label("none of them").nth(1).click()
    expect(keep).to_be_enabled()
    expect(page.get_by_label(re.compile("with different scores: choose"))).to_have_value("each")

    page.get_by_role("link", name="Columns").click()
    page.get_by_label("Subject", exact=True).fill("Geography")
    page.get_by_label("Subject", exact=True).press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Geography, 2025-26")
    page.get_by_role("button", name="Say the same of the other files").click()
    expect(page.get_by_text("Said of 8B.csv.")).to_be_visible()
    accessible(page)
    page.goto("/intake")
    page.get_by_role("button", name="Keep all that are ready").click()
    expect(page.get_by_text(re.compile(r"\d files kept"))).to_be_visible(timeout=60_000)
    expect(
        page.get_by_role("row", name=re.compile("Geography, 2025-26 .*8[AB].csv"))
    ).to_have_count(2)


def test_cut_scores_of_a_form_and_year_are_written_and_opened_again(page: Page) -> None:
    intake(page)
    page.get_by_role("link", name="A scale of grades or levels").click()
    page.get_by_label("Test", exact=True).fill("Harbour survey")
    page.get_by_label("Holds").select_option("level")
    for at, name in enumerate(("Below", "At", "Above"), start=1):
        page.get_by_label(f"Step {at}", exact=True).fill(name)
    page.get_by_label("Cut scores of year").fill("8")
    page.get_by_label("Form", exact=True).fill("B")
    page.get_by_label("School year").fill("2025-26")
    page.get_by_role("button", name="Add cut scores").click()
    page.get_by_label("Lowest score of step 2, Y8, form B, 2025-26").fill("100")
    page.get_by_label("Upper half of step 2, Y8, form B, 2025-26 from").fill("160")
    page.get_by_label("Lowest score of step 3, Y8, form B, 2025-26").fill("150")
    expect(page.get_by_text("The upper half of At (Y8, form B, 2025-26) must lie")).to_be_visible()
    page.get_by_label("Upper half of step 2, Y8, form B, 2025-26 from").fill("120")
    page.get_by_label("Expected at that age: step 2, Y8, form B, 2025-26").check()
    accessible(page)
    page.get_by_role("button", name="See what would be kept").click()
    page.get_by_role("button", name=re.compile("^Keep 3")).click()
    expect(page.get_by_role("heading", name="What was kept")).to_be_visible()
    page.get_by_role("link", name="A scale of grades or levels").click()
    page.get_by_label("Start from").select_option("Harbour survey, level")
    upper = page.get_by_label("Upper half of step 2, Y8, form B, 2025-26 from")
    expect(upper).to_have_value("120")
    expect(page.get_by_label("Expected at that age: step 2, Y8, form B, 2025-26")).to_be_checked()

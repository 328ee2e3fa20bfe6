"""The first crossing in a real browser: sign in, two files in, one honest answer out."""

from __future__ import annotations

import csv
import io
import re
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect
from tests.e2e.screens import accessible, answered, pick, question_of, sign_in, tick
from tests.support import Place, roster


def test_a_wrong_password_is_told_and_opens_nothing(page: Page) -> None:
    accessible(page)
    page.get_by_label("Login").fill("ailsa")
    page.get_by_label("Password").fill("wrong-password")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_contain_text("do not fit")
    expect(page.get_by_role("navigation", name="Places")).to_have_count(0)


def test_compare_from_the_sentence_to_the_student(page: Page) -> None:
    sign_in(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("How did All students in all")
    page.get_by_role("button", name=re.compile("^who:")).click()
    tick(page, "Year 8")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Year 8 in all schools")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    answered(page)
    accessible(page)

    # The planted verdicts, in chart and words.
    for school, verdict in (("Fernhollow", "behind"), ("Wick & Orme", "ahead"),
                            ("Brackwater", "ahead")):  # fmt: skip
        mark = page.get_by_role("button", name=re.compile(f"^{school} .*{verdict}"))
        expect(mark).to_be_visible()
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("Fernhollow is")
    expect(said).to_contain_text("don't rank them")
    expect(said).to_contain_text("no proof of teaching quality")

    # Coverage adds up, and each count opens its students.
    coverage = page.get_by_role("region", name="Coverage")
    numbers = [int(n.replace(",", "")) for n in re.findall(r"[\d,]+", coverage.inner_text())]
    assert numbers[1] == numbers[0] + sum(numbers[2:])
    coverage.get_by_role("button", name="no starting score").click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading")).to_have_text(f"{numbers[-1]} students")
    page.keyboard.press("Escape")
    expect(drawer).to_have_count(0)

    # A mark opens its students; they sort and export.
    page.get_by_role("button", name=re.compile("^Fernhollow [0-9]")).click()
    expect(drawer.get_by_role("row").nth(1)).to_be_visible()
    accessible(page)
    drawer.get_by_role("button", name="Start").click()
    expect(drawer.get_by_role("columnheader", name="Start")).to_have_attribute(
        "aria-sort", "ascending"
    )
    drawer.get_by_role("button", name="Start").click()
    expect(drawer.get_by_role("columnheader", name="Start")).to_have_attribute(
        "aria-sort", "descending"
    )
    drawer.get_by_role("button", name="Show origin").click()
    drawer.get_by_role("button", name=re.compile(r"^spring-2026.csv, line \d+$")).first.click()
    expect(drawer.get_by_text("Student No", exact=True)).to_be_visible()
    number = drawer.get_by_role("row").nth(1).get_by_role("cell").nth(0).inner_text()
    expect(drawer.get_by_role("row").nth(2)).to_contain_text(number)
    accessible(page)
    with page.expect_download() as waiting:
        drawer.get_by_role("button", name="Export").click()
    text = Path(waiting.value.path()).read_text(encoding="utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(text)))
    heading = drawer.get_by_role("heading").inner_text()
    assert heading.startswith(f"{len(rows)} students")
    assert {row["School"] for row in rows} == {"Fernhollow"}
    assert len(rows) > 30


def test_back_reload_and_a_link_give_the_same_answer(page: Page) -> None:
    sign_in(page)
    answered(page)
    first = page.url
    chart = page.get_by_role("region", name="Answer")
    expect(chart).to_contain_text("Brackwater")
    before = chart.inner_text()
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by Sex")
    answered(page)
    page.go_back()
    expect(page).to_have_url(first)
    expect(chart).to_contain_text("Brackwater")
    answered(page)
    assert chart.inner_text() == before
    page.reload()
    expect(chart).to_contain_text("Brackwater")
    answered(page)
    assert chart.inner_text() == before
    other = page.context.new_page()
    other.goto(first)
    expect(other.get_by_role("region", name="Answer")).to_contain_text("Brackwater")
    answered(other)
    assert other.get_by_role("region", name="Answer").inner_text() == before


def test_the_keyboard_alone_is_enough(page: Page) -> None:
    sign_in(page)
    answered(page)
    page.keyboard.press("t")
    expect(page.get_by_role("table")).to_be_visible()
    answered(page)
    assert question_of(page)["show"] == "table"
    accessible(page)
    page.keyboard.press("1")
    page.keyboard.press("]")
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by class")
    page.keyboard.press("[")
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by school")
    answered(page)
    page.keyboard.press("q")
    expect(page.get_by_role("button", name=re.compile("^who:"))).to_be_focused()
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    expect(page.get_by_role("button", name=re.compile("^yardstick:"))).to_be_focused()
    page.keyboard.press("Enter")
    expect(pick(page, "where they started")).to_be_focused()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("measured against nothing")
    answered(page)
    page.get_by_role("button", name=re.compile("^Netherby [0-9]")).focus()
    page.keyboard.press("Enter")
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("button", name="Close")).to_be_focused()
    page.keyboard.press("Escape")
    expect(drawer).to_have_count(0)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="All keys and words")).to_be_visible()
    accessible(page)


def test_a_bad_question_in_the_address_is_explained(page: Page) -> None:
    sign_in(page)
    page.goto('/compare?q={"what":[{"assessment":"Nothing"}]}')
    expect(page.get_by_role("alert")).to_contain_text("There is no test “Nothing”")
    page.get_by_role("link", name="Start from the first question").click()
    expect(page.get_by_role("region", name="Answer")).to_contain_text("Brackwater")


def test_a_school_lead_has_compare_only_and_own_school_only(page: Page) -> None:
    sign_in(page, "rowan")
    expect(page.get_by_role("link", name="Compare")).to_be_visible()
    expect(page.get_by_role("link", name="Intake")).to_have_count(0)
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("in Fernhollow")
    body = page.get_by_role("main").inner_text()
    assert "All schools" in body
    for other in ("Brackwater", "Netherby", "Tarn Academy"):
        assert other not in body


def upload(page: Page, what: str, name: str, text: str) -> None:
    page.get_by_role("link", name="Intake").click()
    page.get_by_label(f"{what}: choose a file").set_input_files(
        {"name": name, "mimeType": "text/csv", "buffer": text.encode()}
    )


def against_nothing(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^yardstick:")).click()
    pick(page, "nothing").click()


def undone_and_gone(page: Page, line: Locator) -> None:
    """The batch of a line in the history is undone; its sitting is no longer offered."""
    page.get_by_role("link", name="Intake").click()
    line.get_by_role("button", name=re.compile("^Undo")).click()
    # What it would mean is said first.
    asked = page.get_by_role("region", name="History")
    expect(asked).to_contain_text("will have no result left")
    asked.get_by_role("button", name="Undo Mathematics, June 2026", exact=True).click()
    expect(line).to_contain_text("undone")
    page.get_by_role("link", name="Compare").click()
    page.get_by_role("button", name=re.compile("^what:")).click()
    offered = page.get_by_role("dialog")
    expect(offered).to_contain_text("spring 2026")
    expect(offered).not_to_contain_text("June 2026")


def test_intake_from_file_to_answer_and_back(page: Page, served: tuple[Place, str]) -> None:
    place = served[0]
    roll = place.snapshot.rolls[-1]
    numbers = place.snapshot.numbers[(roll.year_level == 8) & (roll.school >= 0)].tolist()
    lines = [f"{n},{10 + at % 30}" for at, n in enumerate(numbers[:40])]
    lines += [f"{numbers[0]},39", "999999,5", f"{numbers[41]},abs", lines[3]]
    sign_in(page)
    upload(page, "Results", "Ferry quiz.csv", "Pupil,Result\n" + "\n".join(lines) + "\n")
    panel = page.get_by_role("complementary", name="If you keep it now")
    expect(panel).to_contain_text("40")
    accessible(page)
    expect(panel.get_by_role("button", name=re.compile("^Keep"))).to_be_disabled()

    # Columns: see what was guessed, say what the file does not.
    page.get_by_role("link", name="Columns").click()
    expect(page.get_by_label("Result is", exact=True)).to_have_value("score:raw")
    accessible(page)
    for label, value in (("Subject", "Mathematics"), ("Sitting", "June 2026"),
                         ("Date", "2026-06-09")):  # fmt: skip
        page.get_by_label(label, exact=True).fill(value)
        page.get_by_label(label, exact=True).press("Enter")
        expect(page.get_by_role("table")).to_have_attribute("aria-busy", "false")
    page.get_by_role("link", name="Match").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Mathematics, June 2026")

    # What stops is shown with its rows and settled by a choice.
    findings = page.get_by_role("region", name="What was found")
    findings.get_by_role("button", name="Show the rows: 1 result matches no student").click()
    expect(findings.get_by_role("table")).to_contain_text("999999")
    for title in ("matches no student", "there twice, with different scores"):
        findings.get_by_label(re.compile(f"{title}: choose")).select_option("set_aside")
        expect(findings.get_by_label(re.compile(f"{title}: choose"))).to_have_value("set_aside")
    expect(panel).to_contain_text("Ferry quiz")
    keep = panel.get_by_role("button", name="Keep 40 results")
    expect(keep).to_be_enabled()
    keep.click()

    # Kept: in the history with its rows set aside, and in the next answer.
    history = page.get_by_role("region", name="History")
    line = history.get_by_role("row").filter(has_text="Ferry quiz.csv")
    expect(line).to_be_visible()
    accessible(page)
    line.get_by_role("button", name=re.compile("3 rows of .* set aside")).click()
    expect(history).to_contain_text("matches no student")
    page.get_by_role("link", name="Compare").click()
    answered(page)
    page.get_by_role("button", name=re.compile("^what:")).click()
    pick(page, "Mathematics, June 2026").click()
    answered(page)
    against_nothing(page)
    coverage = page.get_by_role("region", name="Coverage")
    expect(coverage).to_contain_text("1 absent")
    expect(coverage).to_contain_text("39 of")
    assert question_of(page)["against"] is None
    undone_and_gone(page, line)


def test_a_roster_shows_what_it_would_create_and_a_near_name_stops(
    page: Page, served: tuple[Place, str]
) -> None:
    place = served[0]
    before = place.scalar("SELECT count(*) FROM school")
    sign_in(page)
    text = roster([("777701", "Fernholow", 8), ("777702", "Kittiwake Head", 8)])
    upload(page, "A roster", "more.csv", text)
    panel = page.get_by_role("complementary", name="If you keep it now")
    expect(panel).to_contain_text("Kittiwake Head")
    expect(panel.get_by_role("button", name=re.compile("^Keep"))).to_be_disabled()
    choice = page.get_by_label(re.compile("“Fernholow” is near “Fernhollow”: choose"))
    choice.select_option("same")
    expect(panel.get_by_role("button", name=re.compile("^Keep"))).to_be_enabled()
    accessible(page)
    page.get_by_role("link", name="Intake").click()
    page.get_by_role("button", name="Throw away more.csv").click()
    expect(page.get_by_role("button", name="Throw away more.csv")).to_have_count(0)
    assert place.scalar("SELECT count(*) FROM school") == before


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "is empty"), ("School,Sex\nNetherby,F\n", "must have a column with student numbers")],
)
def test_a_file_that_cannot_be_used_says_why_and_changes_nothing(
    page: Page, served: tuple[Place, str], text: str, says: str
) -> None:
    before = served[0].scalar("SELECT count(*) FROM batch")
    sign_in(page)
    upload(page, "A roster", "broken.csv", text)
    expect(page.get_by_role("alert")).to_contain_text(says)
    expect(page.get_by_role("alert")).to_contain_text("Nothing was changed.")
    accessible(page)
    assert served[0].scalar("SELECT count(*) FROM batch") == before


def test_print_keeps_every_row_and_symbol(page: Page) -> None:
    sign_in(page)
    answered(page)
    page.emulate_media(media="print")
    expect(page.get_by_role("navigation", name="Places")).to_have_count(0)
    figure = page.get_by_role("figure")
    expect(figure).to_contain_text("Brackwater")
    expect(figure).to_contain_text("▼")
    expect(page.get_by_role("complementary", name="What it says")).to_be_visible()
    assert len(page.pdf(landscape=True)) > 10_000


def test_every_method_is_one_step_from_an_answer(page: Page) -> None:
    sign_in(page)
    answered(page)
    page.goto(page.url.split("/compare")[0] + "/methods/description")
    expect(page.get_by_role("heading", name="Mean, spread, quartiles")).to_be_visible()
    expect(page.get_by_text("bridge_chart.core")).to_have_count(0)  # the checks stay hidden
    accessible(page)
    page.get_by_role("link", name="All methods").click()
    expect(page.get_by_role("heading", name="Inside a test")).to_be_visible()
    accessible(page)
    page.get_by_role("link", name="A gap in means taken apart").click()
    expect(page.get_by_role("heading", name="A gap in means taken apart")).to_be_visible()


def test_another_curve_for_where_they_started(page: Page) -> None:
    sign_in(page)
    answered(page)
    page.get_by_role("button", name=re.compile("^yardstick:")).click()
    accessible(page)
    page.get_by_text("a smooth curve").click()
    page.keyboard.press("Escape")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_contain_text("measured against where they started, by a smooth curve")
    answered(page)
    assert "spline" in page.url
    page.go_back()
    expect(heading).not_to_contain_text("smooth")

"""A tracker by the screens: its lines are pointed at, and its columns said in one pattern."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, sign_in
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings

KINDS = ("CA", "Tgt", "Eff")
HEADS = [f"{s} {t} {k}" for s in ("Ma", "En", "Sc") for t in ("Aut1", "Aut2") for k in KINDS]


@pytest.fixture
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    rows = [f"{n:03d},Ash,7" for n in range(12)]
    place.bring("roster", "\n".join(["Number,School,Year", *rows]) + "\n", academic_year="2025-26")
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def tracker() -> dict[str, object]:
    """A line of whole marks stands between the names and the students, and says nothing of it."""
    lines = ["Year 7 tracker", ",".join(["Nr", *HEADS]), ",".join(["", *["9"] * len(HEADS)])]
    lines += [",".join([f"{n:03d}", *[str(n % 9 + 1), "7", "B"] * 6]) for n in range(12)]
    text = "\n".join(lines) + "\n"
    return {"name": "Tracker.csv", "mimeType": "text/csv", "buffer": text.encode()}


def test_a_tracker_is_understood_by_pointing_and_one_pattern(
    page: Page, served: tuple[Place, str]
) -> None:
    place, _ = served
    page.goto("/")
    sign_in(page, "freja", PASSWORD)
    page.get_by_role("link", name="Intake").first.click()
    page.get_by_label("Results: choose a file").set_input_files(tracker())  # type: ignore[arg-type]
    columns = page.get_by_role("link", name="Columns")
    columns.click()
    page.get_by_text("The file's first lines, and").click()
    expect(page.get_by_label("Line 2 is")).to_have_value("names")
    page.get_by_label("Line 3 is").select_option("left_out")
    expect(page.get_by_label("Line 3 is")).to_have_value("left_out")
    page.get_by_label("Names are built like").fill("{subject} {sitting} {kind}")
    page.get_by_label("Names are built like").press("Enter")
    expect(page.get_by_text("18 of 19 columns are named so.")).to_be_visible()
    page.get_by_label("“CA” is").select_option("score:grade")
    expect(page.get_by_label("“CA” is")).to_have_value("score:grade")
    page.get_by_label("“Tgt” is").select_option("target")
    expect(page.get_by_label("“Tgt” is")).to_have_value("target")
    accessible(page)
    page.get_by_label("Date", exact=True).fill("2025-11-20")
    page.get_by_label("Date", exact=True).press("Enter")
    with page.expect_response("**/keep"):
        page.get_by_role("button", name=re.compile("^Keep 72 results")).click()
    told = {(m.label, m.role, m.score) for m in place.snapshot.measures}
    assert len(told) == 12
    assert {m.set_aside for m in place.snapshot.measures} == {0}
    maths = next(m for m in place.snapshot.measures if m.label == "Ma, Aut1")
    assert maths.steps == tuple("123456789")

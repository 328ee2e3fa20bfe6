"""A stranger's district by the screens: one class is off, and no school may be said to be.

Four schools of three classes of twenty, two sittings. Everybody goes from x to x + 10 and some luck
of ±3; the students of the class “Rød” at Vest gain 6 more, and nothing else differs.

| asked                                  | what must come out                                    |
|----------------------------------------|-------------------------------------------------------|
| by class, against where they started   | Rød ahead, no other class                             |
| by school                              | no school marked: one class is not a school           |
| by sex (girls and boys in every class) | not told apart, and not “too few schools”             |
| by year level                          | not judged: so by construction                        |
| a reliability of 1.5 in a table        | stops; one of .92 is kept, *corrected* can be had     |
| how sure                               | one cohort only, said so                              |
"""

from __future__ import annotations

import json
import re
import urllib.parse
from collections.abc import Iterator

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, answered
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings

SCHOOLS, COLOURS, SIZE = ("Nord", "Oest", "Vest", "Syd"), ("Blå", "Gul", "Rød"), 20
LATER = {"assessment": "Regnetest", "sitting": "May"}
PRIOR = {"prior": {}}


def students() -> list[tuple[str, str, str]]:
    return [(f"{school[0]}{colour[0]}{n:02d}", school, colour)
            for school in SCHOOLS for colour in COLOURS for n in range(SIZE)]  # fmt: skip


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    rows = [f"{number},{school},6,{colour},{'KM'[int(number[-1]) % 2]}"
            for number, school, colour in students()]  # fmt: skip
    text = "\n".join(["Student number,School,Year level,Class,Køn", *rows]) + "\n"
    place.bring("roster", text, "elever.csv", academic_year="2025-26", as_of="2025-08-11")
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def results() -> str:
    rng = np.random.default_rng(11)
    lines = ["Student number;Test;Sitting;Test date;Score"]
    for number, school, colour in students():
        before = int(rng.normal(50, 10))
        luck = int(rng.integers(-3, 4)) + (6 if (school, colour) == ("Vest", "Rød") else 0)
        lines.append(f"{number};Regnetest;October;2025-10-06;{before}")
        lines.append(f"{number};Regnetest;May;2026-05-04;{before + 10 + luck}")
    return "\n".join(lines) + "\n"


def ask(page: Page, **change: object) -> None:
    asked = {"what": [LATER], "against": PRIOR, **change}
    page.goto(f"/compare?q={urllib.parse.quote(json.dumps(asked))}")
    answered(page)


def said(page: Page) -> str:
    return page.get_by_role("complementary", name="What it says").inner_text()


def marked(page: Page) -> list[str]:
    """The rows of the table that are read as ahead or behind."""
    rows = page.get_by_role("region", name="Answer").get_by_role("row").all_inner_texts()
    return [row.split("\n")[0].split("\t")[0] for row in rows
            if re.search(r"(ahead|behind) by more than chance", row)]  # fmt: skip


def table(page: Page, text: str) -> None:
    page.goto("/intake")
    page.get_by_role("combobox", name="Other tables:").select_option("reliability")
    page.get_by_label("Other tables: choose a file").set_input_files(
        {"name": "sikkerhed.csv", "mimeType": "text/csv", "buffer": text.encode()}
    )


def test_one_class_that_is_off_is_found_and_no_school_is(page: Page) -> None:
    page.get_by_label("Login").fill("freja")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation", name="Places")).to_be_visible()
    page.goto("/intake")
    page.get_by_label("Results: choose a file").set_input_files(
        {"name": "regnetest.csv", "mimeType": "text/csv", "buffer": results().encode()}
    )
    with page.expect_response("**/keep"):
        page.get_by_role("button", name="Keep 480 results").click()

    ask(page, split=[{"field": "class"}], show="table")
    assert marked(page) == ["Rød · Vest"]
    ask(page, split=[{"field": "school"}], show="table")
    assert marked(page) == []
    assert "don't rank them" in said(page)
    ask(page, split=[{"characteristic": "Køn"}], show="table")
    assert marked(page) == []
    assert "too few" not in said(page)
    ask(page, split=[{"field": "year_level"}], show="table")
    assert "by construction" in said(page)

    ask(page, split=[{"field": "class"}], show="sure")
    grid = page.get_by_role("region", name="Answer").get_by_role("table")
    expect(page.get_by_role("region", name="Answer")).to_contain_text("one cohort only")
    expect(grid.get_by_role("row", name=re.compile("^Rød · Vest"))).to_contain_text("holds")
    assert "has not been declared" in page.get_by_role("region", name="Answer").inner_text()
    accessible(page)
    table(page, "Test,Score,Reliability\nRegnetest,raw,1.5\n")
    expect(page.get_by_text(re.compile("a reliability or error that cannot be"))).to_be_visible()
    page.goto("/intake/exact")
    page.get_by_label("Test").fill("Regnetest")
    page.get_by_label("Kind of score").select_option("raw")
    page.get_by_label("Reliability").fill("1,92")
    expect(page.get_by_role("status")).to_contain_text("above 0 and up to 1")
    accessible(page)
    page.get_by_label("Reliability").fill("0,92")
    page.get_by_role("button", name="See what would be kept").click()
    with page.expect_response("**/keep"):
        page.get_by_role("button", name=re.compile("^Keep 1 row")).click()
    ask(page, split=[{"field": "class"}], show="sure")
    expect(grid).to_contain_text("corrected for error in the start")
    expect(grid.get_by_role("row", name=re.compile("^Rød · Vest"))).to_contain_text("holds")

"""A stranger's district by the screens: what its school lead may see, written down before.

Four schools of twelve in one year level. Scores run by one within a school, so that every mean
can be said in the head:

| school | scores   | mean |        what must come out                                          |
|--------|----------|------|--------------------------------------------------------------------|
| Nord   | 50 … 61  | 55.5 | its lead: 12 at 55.5, and beside it 48 at 60.5, as released        |
| Oest   | 60 … 71  | 65.5 | by Sprog: *dansk* is 47 of 48; the one left over is somebody in Syd, |
| Vest   | 40 … 51  | 45.5 | so no row beside *dansk*, and for outside both are hidden          |
| Syd    | 70 … 81  | 75.5 | after one of Vest is corrected from 40 to 99 and released again:   |
|        |          |      | the data lead has 61.7, the lead of Nord still 60.5                |
"""

from __future__ import annotations

import csv
import json
import re
import urllib.parse
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import answered
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings

STARTS = {"Nord": 50, "Oest": 60, "Vest": 40, "Syd": 70}
TEST = {"what": [{"assessment": "Regnetest"}]}


def numbers(school: str) -> list[str]:
    return [f"{school[0]}{n:03d}" for n in range(12)]


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    rows = [
        f"{number},{school},7,{'somali' if number == 'S004' else 'dansk'}"
        for school in STARTS for number in numbers(school)
    ]  # fmt: skip
    text = "\n".join(["Student number,School,Year level,Sprog", *rows]) + "\n"
    place.bring("roster", text, "elever.csv", academic_year="2025-26", as_of="2025-08-11")
    place.account("freja", "data_lead")
    place.account("nils", "school_lead", "Nord")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def enter(page: Page, login: str) -> None:
    page.get_by_label("Login").fill(login)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation", name="Places")).to_be_visible()


def leave(page: Page) -> None:
    page.get_by_role("button", name=re.compile("your account")).click()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_label("Login")).to_be_visible()


def keep(page: Page, name: str, rows: list[str], button: str) -> None:
    """Bring results in at Intake and keep them."""
    page.goto("/intake")
    heads = "Student number,Test,Sitting,Test date,Score"
    text = "\n".join([heads, *rows]) + "\n"
    page.get_by_label("Results: choose a file").set_input_files(
        {"name": name, "mimeType": "text/csv", "buffer": text.encode()}
    )
    page.get_by_role("button", name=button).click()
    expect(page.get_by_role("button", name=button)).to_have_count(0)


def release(page: Page, title: str) -> None:
    page.goto("/setup")
    page.get_by_label("Period").fill(title)
    page.get_by_role("button", name="Release as it is now").click()
    expect(page.get_by_role("row", name=re.compile(f"^{title}"))).to_be_visible()


def ask(page: Page, **change: object) -> None:
    page.goto(f"/compare?q={urllib.parse.quote(json.dumps({**TEST, **change}))}")
    answered(page)


def row(page: Page, name: str) -> str:
    """A row of the answer as it is read aloud."""
    page.keyboard.press("6")
    answered(page)
    return page.get_by_role("row", name=re.compile(f"^{name}")).inner_text()


def test_a_strangers_district_as_it_was_written_down(page: Page, tmp_path: Path) -> None:
    said = "May,2026-05-04"
    enter(page, "freja")
    keep(page, "regnetest.csv", [
        f"{number},Regnetest,{said},{STARTS[school] + n}"
        for school in STARTS for n, number in enumerate(numbers(school))
    ], "Keep 48 results")  # fmt: skip
    leave(page)

    enter(page, "nils")
    ask(page, split=[{"field": "year_level"}])
    expect(page.get_by_role("complementary", name="What it says")).to_contain_text(
        "not been released yet"
    )
    assert "All schools" not in page.get_by_role("region", name="Answer").inner_text()
    leave(page)

    enter(page, "freja")
    release(page, "Foraar")
    leave(page)
    enter(page, "nils")
    ask(page, split=[{"field": "year_level"}])
    assert re.search(r"released 2\d{3}-.*\b48\b.*\b60\.5\b", row(page, "All schools"), re.S)
    assert re.search(r"\b12\b.*\b55\.5\b", row(page, "Year 7"), re.S)
    ask(page, who={"all": [{"characteristic": "Sprog", "in": ["dansk"]}]})
    expect(page.get_by_role("complementary", name="What it says")).to_contain_text(
        "Too few students of other schools"
    )
    text = page.get_by_role("region", name="Answer").inner_text()
    assert "All schools" not in text
    assert "somali" not in page.content()
    leave(page)

    enter(page, "freja")
    keep(page, "rettelse.csv", [f"V000,Regnetest,{said},99"], "Keep 1 result")
    release(page, "Foraar igen")
    ask(page)
    assert re.search(r"\b48\b.*\b61\.7\b", row(page, "All of them"), re.S)
    ask(page, split=[{"characteristic": "Sprog"}])
    with page.expect_download() as waiting:
        page.get_by_role("button", name="For outside").click()
    path = tmp_path / "outside.csv"
    waiting.value.save_as(path)
    rows = list(csv.DictReader(path.read_text(encoding="utf-8-sig").splitlines()))
    told = {one["label"]: one["n"] for one in rows}
    assert told == {"All schools": "48", "dansk": "hidden", "somali": "hidden"}
    leave(page)

    enter(page, "nils")
    ask(page, split=[{"field": "year_level"}])
    assert re.search(r"\b48\b.*\b60\.5\b", row(page, "All schools"), re.S)

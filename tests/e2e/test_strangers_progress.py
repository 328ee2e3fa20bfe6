"""A stranger's two tests by the screens: how far they came, what must come out written down.

Two schools of twelve sat the *Próba* in autumn with 20 to 31 points. In spring every student of
Dąb has 10 more (30 to 41), of Klon 4 more (24 to 35). Levels: słaby, dobry from 25, celujący from
35. The growth table expects 6,5 more of everybody, ambitiously 9. From 20 on a score is the colour
żółty, from 30 zielony, from 40 złoty. By construction:

|                              | Dąb                   | Klon                              |
|------------------------------|-----------------------|-----------------------------------|
| met expected, ambitious      | 12 of 12, 12 of 12    | 0, 0                              |
| a step up, none              | 12, 0                 | 5 (25 to 28, and 35), 7           |
| żółty, zielony, złoty        | 0, 10, 2              | 6, 6, 0                           |
| celujący                     | 7                     | 1                                 |

Eight of 24 are celujący, a third; for Klon to have that it takes 4 of 12: three more, and nearest
are those with 34, 33 and 32 points, 1, 2 and 3 below. Growth percentiles need 200: none, and why.
"""

from __future__ import annotations

import json
import re
import urllib.parse
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, answered
from tests.e2e.test_strangers_figures import enter
from tests.e2e.test_strangers_tests import bring, bring_table, keep
from tests.support import Place, forget_place, new_place, roster

from bridge_chart.store.settings import Settings

GAINED = {"Dąb": 10, "Klon": 4}
LEVELS = (("słaby", 0, "no"), ("dobry", 25, "no"), ("celujący", 35, "yes"))
SINCE = {"earlier": {"measure": {"assessment": "same", "subject": "same", "sitting": {"back": 1}}}}
TESTED = {"assessment": "Próba"}


def sat(sitting: str, date: str, *, spring: bool) -> str:
    lines = ["Number;Test;Sitting;Date;Scaled score;Level"]
    for school, gained in GAINED.items():
        for n in range(12):
            score = 20 + n + (gained if spring else 0)
            level = next(name for name, lowest, _ in reversed(LEVELS) if score >= lowest)
            lines.append(f"{school[0]}{n:02};Próba;{sitting};{date};{score},0;{level}")
    return "\n".join(lines) + "\n"


SCALE = "Test;Score;Step;From;Pass\n" + "".join(
    f"Próba;level;{name};{lowest},0;{passes}\n" for name, lowest, passes in LEVELS
)
GROWTH = (
    "Test;Score;Start;Expected;Ambitious\nPróba;scaled;20,0;26,5;29\nPróba;scaled;31;37,5;40,0\n"
)
COLOURS = "Test;Score;Value;Onto;Becomes\n" + "".join(
    f"Próba;scaled;{value},0;Kolor;{colour}\n"
    for value, colour in ((20, "żółty"), (30, "zielony"), (40, "złoty"))
)


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    people = [(f"{school[0]}{n:02}", school, 8) for school in GAINED for n in range(12)]
    place.bring("roster", roster(people), academic_year="2025-26", as_of="2025-09-01")
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def numbers(page: Page, **question: object) -> dict[str, str]:
    """Each row of Numbers by its first cell."""
    asked = {"what": [TESTED], "split": [{"field": "school"}], "reference": [], **question}
    page.goto(f"/progress?q={urllib.parse.quote(json.dumps(asked))}")
    answered(page)
    page.keyboard.press("t")
    page.get_by_role("columnheader").first.wait_for()
    rows = page.get_by_role("region", name="Answer").get_by_role("row").all_inner_texts()
    return {row.split("\t")[0].strip(): " ".join(row.split()) for row in rows}


def test_a_strangers_progress_as_it_was_written_down(page: Page) -> None:
    enter(page, "freja")
    bring_table(page, "scale", SCALE, "Keep 3 rows")
    for name, date, spring in (("jesień", "2025-10-01", False), ("wiosna", "2026-05-05", True)):
        bring(page, "Results: choose a file", f"{name}.csv", sat(name, date, spring=spring))
        keep(page, "Keep 24 results")
    bring_table(page, "expectation", GROWTH, "Keep 2 rows")
    bring_table(page, "conversion", COLOURS, "Keep 3 rows")

    grown = numbers(page, show="growth", against=SINCE)
    assert "12 of 12" in grown["Dąb"]
    assert grown["Dąb"].count("12 of 12") == 2
    assert grown["Klon"].count("0 of 12") == 2
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("Growth percentiles stand among 200 students or more")
    accessible(page)

    paced = numbers(page, show="pace", against=SINCE)
    # Down two, down one, none, one, two or more.
    assert re.search(r"Dąb 12 0 0 0 0 12 0 ", paced["Dąb"])
    assert re.search(r"Klon 12 0 0 0 7 5 0 ", paced["Klon"])

    page.goto("/compare?q=" + urllib.parse.quote(json.dumps({
        "show": "levels", "what": [{"derive": "convert", "of": TESTED, "table": "Kolor"}],
        "split": [{"field": "school"}], "reference": []})))  # fmt: skip
    answered(page)
    for words in ("Dąb, zielony: 10 of 12", "Dąb, złoty: 2 of 12", "Klon, żółty: 6 of 12"):
        expect(page.get_by_role("button", name=re.compile(words))).to_be_visible()

    page.goto("/progress?q=" + urllib.parse.quote(json.dumps({
        "show": "trial", "what": [TESTED], "split": [{"field": "school"}],
        "focus": [{"field": "school", "in": ["Klon"]}]})))  # fmt: skip
    answered(page)
    expect(said).to_contain_text("3 of the 12 students would have to gain a step")
    nearest = page.get_by_role("region", name="Nearest first")
    for at, (number, away) in enumerate((("K10", 1), ("K09", 2), ("K08", 3))):
        row = nearest.get_by_role("row").nth(at + 1)
        expect(row).to_contain_text(number)
        expect(row).to_contain_text(f"{away}.0 below")
        expect(row).to_contain_text("celujący")

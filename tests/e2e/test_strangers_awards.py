"""A stranger's award by the screens, what must come out written down.

Two schools of twelve. Everybody has U1 (Música, 2,5 credits) banked; U2 (Música, 2,5) is banked at
Ria and estimated at Foz. V1 (Dança, 3): banked by the first six of each school, estimated by the
other six of Ria, nothing for the other six of Foz. The first of Foz has W1 and W2 too (2 each),
of which one counts. The Diploma asks for 8 credits in all and for 5 in Música. By hand:

|                    | total, banked (hoped)  | Música, banked (hoped) | Diploma   |
|--------------------|------------------------|------------------------|-----------|
| Ria, first six     | 8                      | 5                      | met       |
| Ria, other six     | 5 (8)                  | 5                      | on course |
| Foz, first six     | 5,5 (8); one 7,5 (10)  | 2,5 (5)                | on course |
| Foz, other six     | 2,5 (5): 3 short       | 2,5 (5)                | not yet   |

Were W1 and W2 both counted, that one would have 9,5 banked, and seven would have met the total.
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
from tests.e2e.test_strangers_tests import bring_table
from tests.support import Place, forget_place, new_place, roster

from bridge_chart.store.settings import Settings

SCHOOLS = ("Ria", "Foz")


def records() -> list[str]:
    def row(who: str, standard: str, subject: str, credits: str, standing: str) -> str:
        return f"{who};{standard};{subject};{credits};{standing};15.05.2026"

    out = []
    for school in SCHOOLS:
        for n in range(12):
            who = f"{school[0]}{n:02}"
            out.append(row(who, "U1", "Música", "2,5", "banked"))
            out.append(
                row(who, "U2", "Música", "2,5", "banked" if school == "Ria" else "estimated")
            )
            if n < 6 or school == "Ria":
                out.append(row(who, "V1", "Dança", "3,0", "banked" if n < 6 else "estimated"))
    return [*out, *(row("F00", w, "Canto", "2,0", "banked") for w in ("W1", "W2"))]


RULE = (
    "Award;Condition;Credits;Subject;Standards;Joins\nDiploma;Total;8,0;;;\n"
    "Diploma;Música;5;Música;;\nDiploma;Canto;;;W1|W2;once\n"
)


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    people = [(f"{school[0]}{n:02}", school, 11) for school in SCHOOLS for n in range(12)]
    place.bring("roster", roster(people), academic_year="2025-26", as_of="2025-09-01")
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def counts(page: Page, name: str) -> list[int]:
    """Not yet, on course and met, as a bar says it."""
    found = {}
    for state in ("not yet", "on course", "met"):
        bar = page.get_by_role("button", name=re.compile(rf"^{name}: \d+ of \d+ {state}$"))
        label = bar.first.get_attribute("aria-label") if bar.count() else f"{name}: 0 of"
        told = re.search(r": (\d+) of", label or "")
        assert told
        found[state] = int(told[1])
    return list(found.values())


def test_a_strangers_award_as_it_was_written_down(page: Page) -> None:
    enter(page, "freja")
    rows = records()
    head = "Number;Standard;Subject;Credits;Banked;Date\n"
    bring_table(page, "credits", head + "\n".join(rows) + "\n", f"Keep {len(rows)} records")
    bring_table(page, "award", RULE, "Keep 3 rows")
    page.get_by_role("link", name="Awards").click()
    answered(page)
    assert counts(page, "Total") == [6, 12, 6]
    assert counts(page, "Música") == [0, 12, 12]
    assert counts(page, "Diploma") == [6, 12, 6]
    assert counts(page, "Ria") == [0, 6, 6]
    assert counts(page, "Foz") == [6, 6, 0]
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("6 of 24 students with records have met Diploma (25%)")
    expect(said).to_contain_text("12 more are on course (50%), resting on 1.0 estimates each")
    expect(said).to_contain_text("“Total” holds most back: 6 do not come to 8 credits")
    page.get_by_role(
        "button", name=re.compile("^Total ?: at least 8 credits.*Who is near it")
    ).click()
    answered(page)
    near = page.get_by_role("region", name="Near Total")
    expect(near.get_by_role("row").last.get_by_role("cell").nth(3)).to_have_text("3")
    expect(near).to_contain_text("18 have not met it")
    accessible(page)
    ask = {"what": [{"derive": "award", "of": {"assessment": "Credits"}, "rule": "Diploma",
                     "condition": "Total"}], "split": [{"field": "school"}], "reference": [],
           "against": {"threshold": {"rule": "Diploma", "condition": "Total"}}}  # fmt: skip
    page.goto(f"/compare?q={urllib.parse.quote(json.dumps(ask))}")
    answered(page)
    # Foz: five with 8, one with 10, six with 5: 80 over 12, less 8.
    answer = page.get_by_role("region", name="Answer")
    expect(answer).to_contain_text("Foz")
    expect(answer).to_contain_text("−1.3")

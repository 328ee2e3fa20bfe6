"""A stranger's test by the screens: letters and marks, what must come out written down.

Three classes of twelve answer the *Naturprøve*: four letters (1 mark each), one essay (4 marks), in
columns that nobody here named before. By construction:

| item | Redskab | 9x                        | 9y              | 9z                       |
|------|---------|---------------------------|-----------------|--------------------------|
| 1a   | lineal  | all right: 100%           | 6 of 12: 50%    | 3 of 12: 25%             |
| 1b   | lineal  | 6 of 12: 50%              | 6 of 12: 50%    | 6 of 12: 50%             |
| 2a   | passer  | all chose D, the key is C | all right: 100% | blank to the end: missing|
| 2b   | passer  | all right: 100%           | all right: 100% | blank to the end: missing|
| 3    | passer  | 2 of 4 each: 50%          | 4 of 4: 100%    | blank to the end: missing|

By *Redskab*: lineal 9x 75%, 9y 50%, 9z 37.5%; passer is worth 6: 9x (0 + 1 + 2) / 6 = 50%, 9y
100%, 9z nobody. Of 9y five wrote *fordi den er lige lang*, one <script>; the teacher of 9x, once
the two are paired, sees the five and not the one.
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
from tests.e2e.test_strangers_figures import enter, leave
from tests.support import Place, forget_place, new_place

from bridge_chart.store.settings import Settings

CLASSES = ("9x", "9y", "9z")
EACH = 12
ITEMS = ("1a", "1b", "2a", "2b", "3")
SAME, ODD = "Fordi den er lige lang", "<script>alert(1)</script> spørg Søren"


def lines() -> list[str]:
    out = ["Elevnummer;Sitting;Test date;Opgave 1a;Opgave 1b;Opgave 2a;Opgave 2b;Opgave 3;"
           "Opgave 1a explanation",
           "Key;;;A;B;C;D;;", "Max;;;1;1;1;1;4;"]  # fmt: skip
    for name in CLASSES:
        for n in range(EACH):
            right = {"9x": 12, "9y": 6, "9z": 3}[name]
            first = "A" if n < right else "B"
            second = "B" if n < 6 else "a"
            rest = {"9x": "D;d;2", "9y": "C;D;4", "9z": ";;"}[name]
            wrote = "" if name != "9y" or n > 5 else SAME if n < 5 else ODD
            out.append(f"{name}{n:02};marts;12.03.2026;{first};{second};{rest};{wrote}")
    return out


TABLE = "Test;Sitting;Question;Redskab\n" + "".join(
    f"Naturprøve;marts;{item};{'lineal' if item[0] == '1' else 'passer'}\n" for item in ITEMS
)


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    people = "".join(
        f"{name}{n:02};Elev {name}{n};Ege Skole;9;{name};Lærer {name}\n"
        for name in CLASSES for n in range(EACH)
    )  # fmt: skip
    place.bring("roster", f"Elevnummer;Name;School;Year level;Class;Teacher\n{people}",
                academic_year="2025-26", columns={"Elevnummer": "number"})  # fmt: skip
    place.account("freja", "data_lead")
    place.account("holger", "teacher", teachers=[("Ege Skole", "Lærer 9x")])
    with listening(place) as address:
        yield place, address
    forget_place(place)


def bring(page: Page, what: str, name: str, text: str) -> None:
    page.goto("/intake")
    page.get_by_label(what).set_input_files(
        {"name": name, "mimeType": "text/csv", "buffer": text.encode()}
    )


def keep(page: Page, button: str) -> None:
    with page.expect_response("**/keep"):
        page.get_by_role("button", name=button).click()
    expect(page.get_by_role("button", name=button)).to_have_count(0)


def bring_table(page: Page, kind: str, text: str, button: str) -> None:
    """A table of reference, or credit records, by the screens; `button` keeps it."""
    page.goto("/intake")
    page.get_by_role("combobox", name="Other tables:").select_option(kind)
    page.get_by_label("Other tables: choose a file").set_input_files(
        {"name": f"{kind}.csv", "mimeType": "text/csv", "buffer": text.encode()}
    )
    keep(page, button)


def ask(page: Page, **change: object) -> None:
    asked = {"show": "items", "what": [{"assessment": "Naturprøve"}],
             "split": [{"field": "class"}], "options": {"order": "paper"}, **change}  # fmt: skip
    page.goto(f"/tests?q={urllib.parse.quote(json.dumps(asked))}")
    answered(page)


def shares(page: Page) -> dict[str, list[str]]:
    """Each row of Numbers by its name: the shares in order."""
    page.keyboard.press("t")
    answered(page)
    rows = page.get_by_role("region", name="Answer").get_by_role("row").all_inner_texts()
    found = {}
    for row in rows:
        cells = [cell.strip().split("\n")[0] for cell in row.split("\t")]
        found[cells[0]] = [c for c in cells[1:] if c.endswith("%") or c == "–"]
    page.keyboard.press("t")
    return found


def test_a_strangers_test_as_it_was_written_down(page: Page) -> None:
    enter(page, "freja")
    bring(page, "Results: choose a file", "naturprøve.csv", "\n".join(lines()) + "\n")
    expect(page.get_by_text("36 matched, one row each")).to_be_visible()
    expect(page.get_by_text("match no student")).to_have_count(0)
    keep(page, "Keep 36 results")
    bring_table(page, "questions", TABLE, "Keep 5 rows")
    ask(page)
    assert shares(page) == {
        "": [], "question": [],
        "Q1a": ["100%", "50%", "25%"], "Q1b": ["50%", "50%", "50%"], "Q2a": ["0%", "100%", "–"],
        "Q2b": ["100%", "100%", "–"], "Q3": ["50%", "100%", "–"],
    }  # fmt: skip
    ask(page, options={"order": "paper", "by": "Redskab"})
    found = shares(page)
    assert found["lineal"] == ["75%", "50%", "38%"]
    assert found["passer"] == ["50%", "100%", "–"]
    pair(page, "9x · Ege Skole", "9y · Ege Skole")
    leave(page)
    enter(page, "holger")
    page.get_by_role("link", name="Tests").click()
    answered(page)
    page.get_by_role("button", name=re.compile("^Q1a ")).click()
    closer = page.get_by_role("region", name="Q1a, looked at")
    expect(closer.get_by_role("heading", name="9y, Ege Skole (12)")).to_be_visible()
    expect(closer).to_contain_text(f"“{SAME}” · 5 like this")
    expect(closer).to_contain_text("1 wrote what fewer than three did, which is theirs alone.")
    expect(page.get_by_text("Søren")).to_have_count(0)
    accessible(page)


def pair(page: Page, one: str, other: str) -> None:
    """As the lead sets two classes beside each other."""
    page.get_by_role("button", name="Pair classes for a talk about this test").click()
    page.get_by_role("combobox", name=re.compile("^The class")).select_option(label=one)
    page.get_by_role("combobox", name=re.compile("^and the class")).select_option(label=other)
    page.get_by_role("button", name="Pair them").click()
    expect(page.get_by_role("button", name=re.compile("^End the pairing of 9x"))).to_be_visible()
    page.keyboard.press("Escape")

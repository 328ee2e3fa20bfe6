"""Seven schools' own registers and a wide mark book, by the screens, to an answer that counts all.

No register names its school: each file is called by it. What must come out was written first: every
one of the 140 students is counted, 20 in each school, and school k has the mean 50 + k.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Locator, Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import answered, sign_in
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings

SCHOOLS = ["Alder", "Birch Lane", "Cedar", "Dock Road", "Elm", "Fen End", "Gorse"]
EACH = 20


@pytest.fixture
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def number(school: int, student: int) -> str:
    return f"0{school + 1}{student:03d}"


def registers() -> list[dict[str, object]]:
    files: list[dict[str, object]] = []
    for at, school in enumerate(SCHOOLS):
        rows = [f"{number(at, n)},Pupil {n},7{'AB'[n % 2]}" for n in range(EACH)]
        text = "\n".join(["Adm No,Pupil,Reg", *rows]) + "\n"
        files.append({"name": f"{school} register 2025-26.csv", "mimeType": "text/csv",
                      "buffer": text.encode()})  # fmt: skip
    return files


def mark_book() -> dict[str, object]:
    """Maths and English in one line of names; the spreadsheet took the noughts."""
    rows = [
        f"{number(s, n).lstrip('0')};{41 + s + n % 19};{n}" for s in range(7) for n in range(EACH)
    ]
    text = "\n".join(["Adm No;Maths mark;English mark", *rows]) + "\n"
    return {"name": "Autumn term.csv", "mimeType": "text/csv", "buffer": text.encode()}


class Counting:
    """Clicks and files, counted as a person would do them."""

    def __init__(self) -> None:
        self.done = 0

    def click(self, what: Locator) -> None:
        what.click()
        self.done += 1

    def choose(self, what: Locator, choice: str) -> None:
        """A list is opened, and a line of it taken."""
        what.select_option(choice)
        self.done += 2


def test_seven_registers_and_a_mark_book_count_everybody(
    page: Page, served: tuple[Place, str]
) -> None:
    place, _ = served
    hand = Counting()
    page.goto("/")
    sign_in(page, "freja", PASSWORD)
    page.get_by_role("link", name="Intake").first.click()
    page.get_by_label("Roster: choose a file").set_input_files(registers())  # type: ignore[arg-type]
    hand.done += 1
    waiting = page.get_by_role("link", name=re.compile("register 2025-26"))
    expect(waiting).to_have_count(7)
    for school in SCHOOLS:
        hand.click(page.get_by_role("link", name=re.compile(f"^{school} register")))
        hand.choose(page.get_by_label(re.compile(f"Is the whole file of {school}")), "yes")
        with page.expect_response("**/keep"):
            hand.click(page.get_by_role("button", name=re.compile("^Keep 20 rows")))
        expect(page.get_by_label("Results: choose a file")).to_be_attached()
    page.get_by_label("Results: choose a file").set_input_files(mark_book())  # type: ignore[arg-type]
    hand.done += 1
    with page.expect_response("**/keep"):
        hand.click(page.get_by_role("button", name=re.compile("^Keep 280 results")))
    hand.click(page.get_by_role("link", name="Compare"))
    answered(page)
    expect(page.get_by_role("region", name="Coverage")).to_contain_text("140 of 140 counted")
    answer = place.ask({"what": [{"assessment": "Autumn term", "subject": "English"}],
                        "split": [{"field": "school"}]})  # fmt: skip
    assert {row.label: row.n for row in answer.body.rows} == dict.fromkeys(SCHOOLS, EACH)
    assert hand.done == 32

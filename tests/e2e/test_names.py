"""Two schools that are one and two ways to write sex, joined on the Names page, and undone."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, sign_in
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings


@pytest.fixture
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    for school, first, sexes in (("Kvist", 100, "MF"), ("Kvist skole", 200, ["Mand", "Kvinde"])):
        rows = [f"{first + n},{school},7,7A,{sexes[n % 2]}" for n in range(20)]
        text = "\n".join(["Number,School,Year level,Class,Sex", *rows]) + "\n"
        place.bring("roster", text, academic_year="2025-26",
                    decisions={"near_school:Kvist skole": "new"})  # fmt: skip
    marks = [f"{first + n},{n}" for first in (100, 200) for n in range(20)]
    place.bring("results", "\n".join(["Number,Score", *marks]) + "\n", test="Prøve",
                sitting="efterår", date="2025-10-10")  # fmt: skip
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def test_names_are_joined_on_their_page_and_come_apart_by_undo(
    page: Page, served: tuple[Place, str]
) -> None:
    place, _ = served
    page.goto("/")
    sign_in(page, "freja", PASSWORD)
    page.goto("/setup")
    page.get_by_role("link", name="Join and rename").click()
    expect(page.get_by_text("Nothing is said yet.")).to_be_visible()
    page.get_by_label("Kvist means").fill("Kvist skole")
    expect(page.get_by_text("becomes one with Kvist skole")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Sex")).click()
    page.get_by_label("M means", exact=True).fill("Mand")
    page.get_by_label("F means", exact=True).fill("Kvinde")
    for _ in range(3):
        page.get_by_role("button", name="Mand up").click()
    accessible(page)
    page.get_by_role("button", name=re.compile("^Sittings")).click()
    page.get_by_label("efterår was on").fill("2025-10-13")
    page.get_by_role("button", name="See what would be kept").click()
    expect(page.get_by_text("3 names become one with another")).to_be_visible()
    expect(page.get_by_text("1 sitting gets another date")).to_be_visible()
    expect(page.get_by_text("Who leads one of these schools")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Keep")).first.click()
    expect(page).to_have_url(re.compile("/intake$"))
    snapshot = place.snapshot
    assert [s.name for s in snapshot.schools] == ["Kvist skole"]
    assert [o.name for o in snapshot.characteristics[0].options] == ["Mand", "Kvinde"]
    assert str(snapshot.measures[0].date) == "2025-10-13"
    page.goto("/setup/names")
    expect(page.get_by_text("also Kvist")).to_be_visible()
    page.goto("/intake")
    history = page.get_by_role("region", name="History")
    history.get_by_role("button", name=re.compile("^Undo Names")).click()
    expect(history).to_contain_text("Its names mean themselves again.")
    history.get_by_role("button", name="Undo Names of Kvist and F and Kvinde", exact=True).click()
    expect(history).to_contain_text("undone")
    assert len(place.snapshot.schools) == 2

"""A new data lead's first hour: from an empty instance to a teacher who looks at their own class.

The school and its files are nobody's that the program was written around: a smallholders' school on
the mainland, its headings its own, one number mistyped.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, answered
from tests.support import Place, forget_place, new_place

from bridge_chart.access.links import first_link
from bridge_chart.store.settings import Settings

LEAD, TEACHER = "a lantern over the weir", "seven barrows by moonlight"
CLASSES = {"6 Ash": "Mr Oduya Penrose", "6 Birch": "Ms Hild Varley"}


def roll() -> str:
    lines = ["Pupil ID;Forename;Surname;Site;Stage;Teaching group;Teacher"]
    for n in range(1, 61):
        group = "6 Ash" if n <= 30 else "6 Birch"
        lines.append(f"P{n:04d};Kit{n};Hallow{n};Upper Hallow;6;{group};{CLASSES[group]}")
    return "\n".join(lines) + "\n"


def marks() -> str:
    lines = ["Pupil ID;Mark out of 40"]
    lines += [f"P{n:04d};{20 + (n * 7) % 19}" for n in range(1, 60)]
    return "\n".join([*lines, "P0O60;31"]) + "\n"  # the letter for the number


@pytest.fixture
def empty(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    with listening(place) as address:
        yield place, address
    forget_place(place)


def computer(browser: Browser, address: str) -> Page:
    context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
    context.add_init_script("localStorage.setItem('bridge-chart-walked', 'yes')")
    return context.new_page()


def comes_in(page: Page, link: str) -> None:
    page.goto(link)
    page.get_by_label("Your name").fill("Isolde Marsh")
    page.get_by_label("Login").fill("isolde")
    page.get_by_label("Password").fill(LEAD)
    page.get_by_role("button", name="Come in").click()
    # There is nothing to ask about yet, so this is where the lead begins.
    expect(page).to_have_url(re.compile("/intake$"))
    accessible(page)


def brings_in(page: Page, folder: Path) -> None:
    roster, results = folder / "Roll.csv", folder / "Autumn numeracy.csv"
    roster.write_text(roll(), encoding="utf-8")
    results.write_text(marks(), encoding="utf-8")
    page.get_by_label("Roster: choose a file").set_input_files(roster)
    expect(page.get_by_text(re.compile("60 students")).first).to_be_visible()
    keep = page.get_by_role("button", name=re.compile("^Keep"))
    keep.click()
    expect(page.get_by_role("heading", name="What was kept")).to_be_visible()
    page.wait_for_load_state("networkidle")
    page.get_by_label("Results: choose a file").set_input_files(results)
    found = page.get_by_role("region", name="What was found")
    expect(found).to_be_visible()
    # What the file does not say is assumed, and said so.
    expect(page.get_by_role("complementary")).to_contain_text("the file's name")
    expect(found).to_contain_text("P0O60")
    page.get_by_label("1 result matches no student: choose").select_option("set_aside")
    expect(keep).to_be_enabled()
    keep.click()
    expect(page.get_by_role("heading", name="What was kept")).to_be_visible()
    page.goto("/")
    answered(page)
    expect(page.get_by_role("region", name="Answer")).to_contain_text("59")


def invites(page: Page) -> str:
    """The link for the teacher."""
    page.goto("/setup/accounts")
    page.get_by_role("button", name="Invite somebody").click()
    form = page.get_by_role("form", name="Invite somebody")
    form.get_by_label("Name", exact=True).fill("Oduya Penrose")
    form.get_by_label("Login").fill("oduya")
    offered = form.get_by_role("list", name="Near names").get_by_role("button")
    offered.filter(has_text="Oduya Penrose").first.click()
    form.get_by_role("button", name="Invite", exact=True).click()
    return page.get_by_role("region", name="One-time link").get_by_label("The link").input_value()


def test_from_an_empty_machine_to_a_teacher_at_their_own_class(
    browser: Browser, empty: tuple[Place, str], tmp_path: Path
) -> None:
    place, address = empty
    link = first_link(place.engine)
    assert link is not None
    lead, teacher = computer(browser, address), computer(browser, address)
    comes_in(lead, link.path)
    brings_in(lead, tmp_path)
    teacher.goto(invites(lead))
    teacher.get_by_label("Password").fill(TEACHER)
    teacher.get_by_role("button", name="Come in").click()
    answered(teacher)
    told = teacher.get_by_role("region", name="Answer")
    expect(told).to_contain_text("6 Ash")
    expect(told).not_to_contain_text("6 Birch")
    teacher.get_by_role("button", name=re.compile("^See the 30 students")).click()
    drawer = teacher.get_by_role("complementary", name="Students")
    expect(drawer).to_contain_text("Hallow7")
    expect(drawer).not_to_contain_text("Hallow31")
    accessible(teacher)
    for page in (lead, teacher):
        page.context.close()

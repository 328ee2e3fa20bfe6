"""A district that no code was written around: what must come out is worked out here, from the rows.

Three valleys with their own words: *Kurs* for a class, letters for grades, two sittings with a
different number of students each, questions whose topics are called like their strands.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import answered
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings

SCHOOLS = ("Ober-Lund", "Nieder-Lund", "Sankt Vilm")
GRADES = "FEDCBA"


@dataclass(frozen=True)
class Pupil:
    number: str
    school: str
    course: str
    boarder: str
    autumn: int | None
    spring: int | None
    grade: str
    marks: tuple[int, int, int]


def pupils() -> list[Pupil]:
    """A hundred and eighty; every seventh missed autumn, every eleventh spring."""
    out = []
    for n in range(180):
        spring = None if n % 11 == 0 else 40 + (n * 37) % 61
        grade = "" if spring is None else GRADES[min(5, (spring - 40) // 10)]
        out.append(Pupil(
            f"K-{n:04d}", SCHOOLS[n % 3], f"9{'abc'[n % 2]}", "ja" if n % 5 == 0 else "nein",
            None if n % 7 == 0 else 38 + (n * 29) % 61, spring, grade,
            (n % 3, (n // 2) % 3, (n // 3) % 5),
        ))  # fmt: skip
    return out


PUPILS = pupils()
TAGS = """Test,Question,Maximum,Strand,Topic
Werkstatt,Q1,2,Holz,Metall
Werkstatt,Q2,2,Metall,Holz
Werkstatt,Q3,4,Holz,Holz
"""


def lines(head: str, rows: list[str]) -> str:
    return "\n".join([head, *rows]) + "\n"


def bring_all(place: Place) -> None:
    place.bring("roster", lines("Nummer;Schule;Jahrgang;Kurs;Internat", [
        f"{p.number};{p.school};9;{p.course};{p.boarder}" for p in PUPILS
    ]), name="lund.csv", academic_year="2025-26", columns={
        "Nummer": "number", "Schule": "school", "Jahrgang": "year_level", "Kurs": "class",
        "Internat": "characteristic"})  # fmt: skip
    for sitting, date in (("autumn", "2025-11-10"), ("spring", "2026-04-20")):
        rows = [f"{p.number},{getattr(p, sitting)}" for p in PUPILS if getattr(p, sitting)]
        place.bring("results", lines("number,score", rows), name=f"{sitting}.csv",
                    test="Talprobe", sitting=sitting, date=date)  # fmt: skip
    place.bring("scale", lines("Test,Score,Step,Pass,Points", [
        f"Zeugnis,grade,{g},{'yes' if g in 'CBA' else 'no'},{n}" for n, g in enumerate(GRADES)
    ]), name="grades.csv")  # fmt: skip
    place.bring("results", lines("number,grade", [
        f"{p.number},{p.grade}" for p in PUPILS if p.grade
    ]), name="zeugnis.csv", test="Zeugnis", sitting="summer", date="2026-06-20")  # fmt: skip
    place.bring("results", lines("number,Q1,Q2,Q3", [
        "Maximum marks,2,2,4", *(f"{p.number},{','.join(map(str, p.marks))}" for p in PUPILS)
    ]), name="werkstatt.csv", test="Werkstatt", sitting="May", date="2026-05-04")  # fmt: skip
    place.bring("questions", TAGS, name="fragen.csv")
    place.account("anna", "data_lead")
    place.account("otto", "school_lead", "Sankt Vilm")


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    """The strangers' district in the place of the demo: what `page` of the conftest opens."""
    place = new_place(cluster)
    bring_all(place)
    with listening(place) as address:
        yield place, address
    forget_place(place)


def enter(page: Page, login: str = "anna") -> None:
    page.get_by_label("Login").fill(login)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation", name="Places")).to_be_visible()
    answered(page)


def choose(page: Page, slot: str, *choices: str) -> None:
    """Open a slot of the sentence by its words and take choices in it."""
    page.locator("#sentence").get_by_role("button", name=re.compile(slot)).click()
    for words in choices:
        page.get_by_role("dialog").get_by_text(words, exact=True).first.click()
        page.wait_for_timeout(150)
    page.keyboard.press("Escape")
    answered(page)


def drawer_counts(page: Page) -> int:
    """How many are counted in the list that is open."""
    drawer = page.get_by_role("complementary", name="Students")
    heading = drawer.get_by_role("heading")
    expect(heading).to_contain_text(re.compile(r"\d"))
    total, *left = (int(n.replace(",", "")) for n in re.findall(r"\d[\d,]*", heading.inner_text()))
    return total - sum(left)


def counted(sitting: str, **wanted: Any) -> int:
    return sum(
        getattr(p, sitting) is not None and all(getattr(p, k) == v for k, v in wanted.items())
        for p in PUPILS
    )


def test_each_point_over_time_opens_its_own_sitting(page: Page) -> None:
    enter(page)
    choose(page, "Zeugnis|Talprobe|Werkstatt", "Talprobe, spring")
    choose(page, "where they started|nothing", "nothing")
    page.keyboard.press("5")
    answered(page)
    for sitting in ("autumn", "spring"):
        for school in SCHOOLS:
            words = re.compile(f"^{school}, {sitting}: ")
            point = page.get_by_role("button", name=words)
            told = re.search(r"(\d+) counted", point.get_attribute("aria-label") or "")
            assert told
            assert int(told[1]) == counted(sitting, school=school)
            point.press("Enter")
            assert drawer_counts(page) == counted(sitting, school=school)
            expect(page.get_by_role("complementary", name="Students")).to_contain_text(sitting)
            page.keyboard.press("Escape")


def test_grades_open_their_students_and_any_grade_can_be_the_line(page: Page) -> None:
    enter(page)
    choose(page, "Zeugnis|Talprobe|Werkstatt", "Zeugnis, summer")
    page.keyboard.press("2")
    answered(page)
    for school, grade in (("Ober-Lund", "A"), ("Sankt Vilm", "F")):
        wanted = sum(p.school == school and p.grade == grade for p in PUPILS)
        bar = page.get_by_role("button", name=re.compile(f"^{school}, {grade}: "))
        expect(bar).to_have_attribute("aria-label", re.compile(rf": {wanted} of"))
        bar.click()
        assert drawer_counts(page) == wanted
        page.keyboard.press("Escape")
    choose(page, "Zeugnis", "B or better")
    expect(page.get_by_role("figure")).to_contain_text("“B” or better")
    page.keyboard.press("1")
    answered(page)
    for school in SCHOOLS:
        own = [p for p in PUPILS if p.school == school and p.grade]
        share = 100 * sum(p.grade in "AB" for p in own) / len(own)
        row = page.get_by_role("button", name=re.compile(f"^{school}"))
        expect(row).to_contain_text(f"{share:.1f}%")
        expect(row).to_contain_text(str(len(own)))


def test_a_topic_and_a_strand_of_one_name_are_two_figures(served: tuple[Place, str]) -> None:
    place = served[0]
    worth = {"strand": {"Holz": (0, 2), "Metall": (1,)}, "topic": {"Holz": (1, 2), "Metall": (0,)}}
    maximum = (2, 2, 4)
    for kind in ("topic", "strand"):
        for score in ("raw", "percent"):
            answer = place.ask({"show": "table", "what": [
                {"assessment": "Werkstatt", "score": score, "part": {"kind": kind}}]})  # fmt: skip
            found = {row.label: row.mean for row in answer.body.rows}
            for name, held in worth[kind].items():
                won = sum(sum(p.marks[n] for n in held) for p in PUPILS) / len(PUPILS)
                full = sum(maximum[n] for n in held)
                expected = won if score == "raw" else 100 * won / full
                assert found[name] == pytest.approx(expected)


def test_a_school_lead_opens_the_same_marks_of_the_own_school(page: Page) -> None:
    enter(page, "otto")
    choose(page, "Zeugnis|Talprobe|Werkstatt", "Talprobe, spring")
    choose(page, "where they started|nothing", "nothing")
    choose(page, "class|school", "Internat")
    for boarder, label in (("ja", "ja"), ("nein", "nein")):
        wanted = counted("spring", school="Sankt Vilm", boarder=boarder)
        row = page.get_by_role("button", name=re.compile(f"^(Internat: )?{label}"))
        expect(row).to_contain_text(str(wanted))
        row.click()
        assert drawer_counts(page) == wanted
        page.keyboard.press("Escape")
    expect(page.locator("body")).not_to_contain_text("Ober-Lund")

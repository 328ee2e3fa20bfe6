"""The attacker asks about awards: whose records are elsewhere stays there, name, sum and count."""

from __future__ import annotations

import random
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from tests.attack.heard import Heard, ask, foreign_ids
from tests.attack.planted import Planted, planted
from tests.effort import LONG
from tests.support import Place, forget_place, new_place

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.releases import make_release
from bridge_chart.answers.beside.catalogue import catalogue
from bridge_chart.answers.beside.find import find
from bridge_chart.answers.person.student import student_page
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import BridgeError
from bridge_chart.terms.people import Actor

CREDITS = {"assessment": "Credits"}
QUESTIONS = 1500 if LONG else 150
ELSEWHERE = ("Quillwork", "QW1", "Carving a quill")
"""A subject, standard and title of which only students elsewhere have records."""
EXACT = 1e-9
"""Credits have six decimals, and sums of them are exact."""


class Kept:
    """The district, its attacker, and every student's credits, banked and estimated."""

    def __init__(self, place: Place, role: str) -> None:
        self.made: Planted = planted(place, role)
        draw = random.Random(11)
        self.worth = {
            s.number: [round(draw.uniform(2, 6), 6) for _ in range(3)] for s in self.made.students
        }
        rows = ["Number,Standard,Title,Subject,Level,Credits,Result,Estimated,Date"]
        for at, s in enumerate(self.made.students):
            only = at % 9 == 0 and not self.made.mine(s)
            for n, worth in enumerate(self.worth[s.number]):
                what = ("S1,Tides,Science", "S2,Knots,Craft", "S3,Maps,Science")[n]
                if only and n == 1:
                    what = f"{ELSEWHERE[1]},{ELSEWHERE[2]},{ELSEWHERE[0]}"
                rows.append(f"{s.number},{what},2,{worth:.6f},Merit,{'est' if n == 2 else ''},"
                            f"2026-0{n + 1}-03")  # fmt: skip
        place.bring("credits", "\n".join(rows) + "\n", "records.csv")
        place.bring("award", "Award,Condition,Credits,Subjects,Subject\nTide,Total,12,,\n"
                    "Tide,Two,2,2,\nTide,Science,7,,Science\n", "rules.csv")  # fmt: skip
        if role == "teacher":
            place.account("alder", "teacher", teachers=[("Alder", "Teacher of Alder 5")])
        else:
            place.account("alder", "school_lead", "Alder")
        make_release(place.engine, OPERATOR, "Spring")

    def secrets(self) -> dict[str, float]:
        """Single credits and sums of every student elsewhere."""
        out: dict[str, float] = {}
        for s in self.made.foreign:
            one, two, three = self.worth[s.number]
            out |= {f"{s.number} {n}": x for n, x in enumerate((one, two, three))}
            out |= {f"{s.number} banked": one + two, f"{s.number} all": one + two + three,
                    f"{s.number} science": one + three}  # fmt: skip
        return out


@pytest.fixture(scope="module", params=["school_lead", "teacher"])
def kept(cluster: Settings, request: pytest.FixtureRequest) -> Iterator[Kept]:
    place = new_place(cluster)
    yield Kept(place, request.param)
    forget_place(place)


@pytest.fixture(scope="module")
def lead(kept: Kept) -> Actor:
    return actor_named(kept.made.place.engine, "alder")


def questions(kept: Kept) -> Iterator[dict[str, Any]]:
    draw = random.Random(3)
    ids = foreign_ids(kept.made)
    theirs = [ids[s.number] for s in kept.made.foreign]

    def award(condition: str | None, counting: str) -> dict[str, Any]:
        of = {"derive": "award", "of": CREDITS, "rule": "Tide", "counting": counting}
        return of if condition is None else {**of, "condition": condition}

    def one() -> dict[str, Any]:
        return award(draw.choice([None, "Total", "Two", "Science"]),
                     draw.choice(["banked", "banked and estimated"]))  # fmt: skip

    for _ in range(QUESTIONS):
        conditions: list[Any] = [
            {"field": "year_level", "in": [5]}, {"characteristic": "Sex", "in": ["F"]},
            {"field": "school", "in": ["Birch"]}, {"measure": one(), "from": 1},
            {"not": {"field": "school", "in": ["Alder"]}},
            {"measure": CREDITS, "from": round(draw.uniform(4, 14), 2)},
            {"field": "student", "in": draw.sample(theirs, 3)},
        ]  # fmt: skip
        show = draw.choice(["awards", "awards", "awards", "levels", "table", "students", "spread"])
        what = award(None, "banked and estimated") if show == "awards" else one()
        question: dict[str, Any] = {
            "show": show, "what": [CREDITS if show == "spread" else what],
            "who": {"all": draw.sample(conditions, draw.choice((0, 0, 1, 2))),
                    "as_of": draw.choice(["sitting", "today"])},
        }  # fmt: skip
        if show != "students":
            question["reference"] = draw.choice([["district"], ["district"], []])
        if show == "awards" and draw.random() < 0.6:
            question["options"] = {"condition": draw.choice(["Total", "Two", "Science"])}
        if show == "students":
            question["page"] = {"size": 500}
        else:
            question["split"] = draw.choice([
                [], [{"field": "class"}], [{"field": "school"}], [{"characteristic": "Language"}],
                [{"level_of": one()}],
            ])  # fmt: skip
        if show == "table" and draw.random() < 0.5:
            question["what"] = [award("Total", "banked")]
            question["against"] = {"threshold": {"rule": "Tide", "condition": "Total"}}
        if draw.random() < 0.15:
            question["open"] = {"students": [draw.choice(theirs)]}
        yield question


@pytest.fixture(scope="module")
def heard(kept: Kept, lead: Actor) -> Heard:
    place, out = kept.made.place, Heard()
    for question in questions(kept):
        ask(place, lead, question, out)
    out.take(catalogue(place.engine, place.settings, lead).model_dump(mode="json"))
    for text in ("QW", "Quill", "Carv"):
        out.take([one.model_dump(mode="json") for one in find(
            place.engine, place.settings, lead, text)])  # fmt: skip
    return out


def test_the_attack_is_one(heard: Heard) -> None:
    assert heard.answered > 0.4 * QUESTIONS
    assert heard.refused > 0
    assert "Total" in heard.texts


def test_the_secrets_can_be_heard_by_who_may(kept: Kept) -> None:
    """The data lead hears every sum: the attack listens in the right place."""
    out = Heard()
    ask(kept.made.place, OPERATOR, {"show": "students", "what": [CREDITS],
                                    "page": {"size": 500}}, out)  # fmt: skip
    said = np.array(sorted(out.numbers))
    hidden = {name: x for name, x in kept.secrets().items() if name.endswith("banked")}
    assert all(np.abs(said - x).min() < EXACT for x in hidden.values())


def test_no_name_of_elsewhere_is_said(kept: Kept, heard: Heard) -> None:
    said = "\n".join(heard.texts)
    names = [name for name in kept.made.names() if name != "Birch"]
    assert [name for name in (*names, *ELSEWHERE) if name in said] == []


def test_no_record_or_sum_of_elsewhere_is_said(kept: Kept, heard: Heard) -> None:
    said = np.array(sorted(heard.numbers))
    told = [name for name, x in kept.secrets().items() if np.abs(said - x).min() < EXACT]
    assert told == []


def test_none_comes_out_by_subtraction(kept: Kept, heard: Heard) -> None:
    values = np.array(list(kept.secrets().values()))
    pairs = np.array(sorted(heard.pairs))
    assert len(pairs) > 10
    n, mean = pairs.T
    for at in range(len(n)):
        use = n[at] - n == 1
        left = n[at] * mean[at] - n[use] * mean[use]
        assert not (np.abs(left[:, None] - values[None, :]) < EXACT).any()


def test_no_page_of_a_student_elsewhere_opens(kept: Kept, lead: Actor) -> None:
    place = kept.made.place
    ids = foreign_ids(kept.made)
    for s in random.Random(2).sample(kept.made.foreign, 12):
        with pytest.raises(BridgeError):
            student_page(place.engine, place.settings, lead, ids[s.number])

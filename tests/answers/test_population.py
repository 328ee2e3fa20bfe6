"""Who: every kind of condition against a plain reading of the same arrays."""

from __future__ import annotations

from typing import Any

import numpy as np
import pandas as pd
import pytest
from tests.support import Place

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
READING = {**MATHS, "subject": "Reading"}


@pytest.fixture(scope="module")
def frame(demo: Place) -> pd.DataFrame:
    """One row per student, in words, as of the sitting in spring 2026."""
    snapshot = demo.snapshot
    roll = snapshot.rolls[-1]
    schools = np.array([s.name for s in snapshot.schools] + [""])
    scores = {
        m.subject.name: np.asarray(snapshot.values(m))
        for m in snapshot.measures
        if m.subject and m.score == "scaled" and m.sitting.name == "spring 2026"
    }
    columns: dict[str, Any] = {
        "id": np.asarray(snapshot.student_ids),
        "school": schools[np.asarray(roll.school)],
        "year": np.asarray(roll.year_level),
        "maths": scores["Mathematics"],
        "reading": scores["Reading"],
    }
    for item in snapshot.characteristics:
        words = np.array([o.name for o in item.options] + [""])
        columns[item.name] = words[np.asarray(roll.characteristic(item.id, snapshot.students))]
    frame = pd.DataFrame(columns)
    return frame[frame["school"] != ""]


Plain = Any
CASES: list[tuple[str, list[dict[str, Any]], Plain]] = [
    ("one school", [{"field": "school", "in": ["Netherby"]}], lambda f: f.school == "Netherby"),
    ("two schools", [{"field": "school", "in": ["Netherby", "Brackwater"]}],
     lambda f: f.school.isin(["Netherby", "Brackwater"])),
    ("year range", [{"field": "year_level", "from": 5, "to": 7}], lambda f: f.year.between(5, 7)),
    ("year and above", [{"field": "year_level", "from": 10}], lambda f: f.year >= 10),
    ("and", [{"field": "year_level", "in": [8]}, {"characteristic": "Sex", "in": ["F"]}],
     lambda f: (f.year == 8) & (f.Sex == "F")),
    ("any", [{"any": [{"field": "year_level", "in": [3]}, {"characteristic": "Sex", "in": ["M"]}]}],
     lambda f: (f.year == 3) | (f.Sex == "M")),
    ("not", [{"not": {"characteristic": "Home language", "in": ["English", "Merrish"]}}],
     lambda f: ~f["Home language"].isin(["English", "Merrish"])),
    ("not any", [{"not": {"any": [{"field": "school", "in": ["Netherby"]},
                                  {"field": "year_level", "in": [4, 5]}]}}],
     lambda f: ~((f.school == "Netherby") | f.year.isin([4, 5]))),
    ("range on another measure", [{"measure": READING, "from": 300, "below": 320}],
     lambda f: (f.reading >= 300) & (f.reading < 320)),
    ("ends exclude and include", [{"measure": MATHS, "above": 300, "to": 301}],
     lambda f: (f.maths > 300) & (f.maths <= 301)),
    ("unknown value", [{"characteristic": "Sex", "in": [None]}], lambda f: f.Sex == ""),
]  # fmt: skip


@pytest.mark.parametrize(("conditions", "plain"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
def test_conditions_are_what_they_say(
    demo: Place, frame: pd.DataFrame, conditions: list[dict[str, Any]], plain: Plain
) -> None:
    asked = {"show": "students", "what": [MATHS], "who": {"all": conditions},
             "page": {"size": 6000}}  # fmt: skip
    shown = demo.ask(asked).body.student
    assert sorted(shown) == sorted(frame.loc[plain(frame), "id"].tolist())


def test_chips_say_each_condition_and_where_it_stands(demo: Place) -> None:
    conditions = [c for _, cs, _ in CASES[:8] for c in cs][:6]
    answer = demo.ask({"what": [MATHS], "who": {"as_of": "today", "all": conditions}})
    assert [chip.path for chip in answer.chips] == [
        *[f"who.all.{n}" for n in range(6)], "who.as_of",
    ]  # fmt: skip
    words = [chip.text for chip in answer.chips]
    assert words[:4] == [
        "Netherby",
        "Brackwater or Netherby",
        "Year 5 to Year 7",
        "Year 10 and above",
    ]
    assert words[-1] == "as of today (2026-04-20)"


def test_as_of_today_follows_who_moved_and_who_left(demo: Place) -> None:
    """Last spring's results of the classes as they are today."""
    snapshot = demo.snapshot
    spring = {**MATHS, "sitting": "spring 2025"}
    then = demo.ask({"what": [spring], "split": [{"field": "school"}]})
    now = demo.ask({"what": [spring], "split": [{"field": "school"}], "who": {"as_of": "today"}})
    roll = snapshot.rolls[-1]
    assert now.coverage[0].population == int((roll.school >= 0).sum())
    assert then.coverage[0].population != now.coverage[0].population
    reasons = {m.reason: m.n for m in now.coverage[0].missing}
    assert reasons["not_on_roll"] > 0
    measure = next(
        m for m in snapshot.measures
        if (m.sitting.id, m.score) == (now.measures[0].asked.sitting, now.measures[0].asked.score)
    )  # fmt: skip
    held = ~np.isnan(snapshot.values(measure)) & (roll.school >= 0)
    assert now.coverage[0].counted == int(held.sum())


def test_a_split_may_have_its_own_date(demo: Place) -> None:
    """Today's students by the school they were in two years ago."""
    answer = demo.ask(
        {"what": [MATHS], "who": {"as_of": "today"},
         "split": [{"field": "school", "as_of": {"year": "2023-24"}}]}
    )  # fmt: skip
    unknown = [row for row in answer.body.rows if row.key == "unknown"]
    assert len(unknown) == 1
    assert sum(row.n for row in answer.body.rows) == answer.coverage[0].counted

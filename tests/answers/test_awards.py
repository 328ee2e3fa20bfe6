"""Awards: worked out again from the files by hand, the planted students, and what may not be."""

from __future__ import annotations

import json
from copy import copy
from itertools import product
from typing import Any

import numpy as np
import polars as pl
import pytest
from tests.support import Place, roster

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.asking.ask import answer_on, read_question
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.person.credits import credits_of
from bridge_chart.answers.person.student import student_of_number, student_page
from bridge_chart.answers.shows.awards.body import AwardCondition, AwardsBody
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.terms.errors import InvalidQuestion, NotFound

CREDITS = {"assessment": "Credits"}
LEVEL_2 = {"derive": "award", "of": CREDITS, "rule": "Harbour award level 2"}
READING, WRITING = {"E21", "E24"}, {"E22", "G22"}
NOT_YET, ON_COURSE, MET = range(3)


def body_of(place: Place, question: dict[str, Any]) -> AwardsBody:
    body = place.ask({"show": "awards", **question}).body
    assert isinstance(body, AwardsBody)
    return body


def counts(body: AwardsBody) -> dict[str, list[int]]:
    return {one.name: one.counts for one in body.conditions}


def by_hand(rows: list[dict[str, str]]) -> list[bool]:
    """Whether some records meet each condition of the level 2 award, and all: M22 or M25."""
    tried = []
    for left_out in ("M22", "M25"):
        best: dict[str, dict[str, str]] = {}
        for row in rows:
            if row["Standard"] != left_out:
                best[row["Standard"]] = row
        held = [r for r in best.values() if r["Level"] == "2"]

        def total(wanted: list[dict[str, str]]) -> int:
            return sum(int(r["Credits"]) for r in wanted)

        tried.append([
            total(held) >= 50,
            total([r for r in held if r["Standard"] in READING]) >= 5,
            total([r for r in held if r["Standard"] in WRITING]) >= 4,
            total([r for r in held if r["Subject"] == "Mathematics"]) >= 8,
            total([r for r in held if r["Kind"] == "external"]) >= 8,
        ])  # fmt: skip
    each = [any(one) for one in zip(*tried, strict=True)]
    return [*each, any(all(one) for one in tried)]


def practised(place: Place) -> list[dict[str, str]]:
    """Estimates of the one standard that a practice paper stands for."""
    folder = place.settings.home / "demo"
    counts_as = {row["Value"]: row for row in pl.read_csv(
        folder / "practice.csv", infer_schema=False).to_dicts()}  # fmt: skip
    sat = pl.read_csv(folder / "mock-2026.csv", infer_schema=False).to_dicts()
    return [
        {**counts_as[row["Grade"]], "Student number": row["Student No"], "Banked": "estimated"}
        for row in sat if row["Subject"] == "Mathematics" and row["Grade"] in counts_as
    ]  # fmt: skip


def test_the_award_is_worked_out_again_from_the_files(demo: Place) -> None:
    folder = demo.settings.home / "demo"
    rows = [
        row for name in ("credits-2025.csv", "credits-2026.csv")
        for row in pl.read_csv(folder / name, infer_schema=False).to_dicts()
    ]  # fmt: skip
    mine: dict[str, list[dict[str, str]]] = {}
    rows += practised(demo)
    for row in rows:
        mine.setdefault(row["Student number"], []).append(row)
    answer = demo.ask({"show": "students", "what": [LEVEL_2], "who": {"all": [
        {"field": "year_level", "in": [11]}]}, "page": {"size": 2000}})  # fmt: skip
    numbers = next(c.values for c in answer.body.columns if c.key == "number")
    state = {"banked": [0] * 6, "hoped": [0] * 6}
    without = 0
    for number in numbers:
        held = mine.get(str(number), [])
        without += not held
        banked = by_hand([row for row in held if row["Banked"] == "banked"])
        hoped = by_hand(sorted(held, key=lambda row: row["Banked"], reverse=True))
        for n in range(6):
            state["banked"][n] += banked[n]
            state["hoped"][n] += hoped[n]
    body = body_of(demo, {"what": [LEVEL_2], "who": {"all": [
        {"field": "year_level", "in": [11]}]}})  # fmt: skip
    assert [one.counts[MET] for one in body.conditions] == state["banked"]
    assert [one.counts[MET] + one.counts[ON_COURSE] for one in body.conditions] == state["hoped"]
    assert {one.missing for one in body.conditions} == {without}
    assert body.awards[0].met == state["banked"][5] > 0
    assert body.awards[0].rests is not None
    assert 1 <= body.awards[0].rests < 6
    assert 0 < (body.awards[0].lower or 0) <= body.awards[0].course


def test_the_planted_students_are_found(demo: Place) -> None:
    planted = json.loads((demo.settings.home / "demo" / "planted.json").read_text())
    told = planted["files"]["awards.csv"]["planted"]
    body = body_of(demo, {"what": [LEVEL_2]})

    def those(name: str, state: int) -> dict[str, list[Any]]:
        one = next(c for c in body.conditions if c.name == name)
        found = demo.opened({"show": "awards", "what": [LEVEL_2]}, one.bars[state].opens)
        assert len(found.body.columns[0].values) == one.counts[state]
        return {str(column.label): list(column.values) for column in found.body.columns}

    short = those("Level total", NOT_YET)
    at = short["Number"].index(told["one credit short"])
    own = next(values for label, values in short.items() if "Level total" in label)
    assert own[at] == 49
    others = [values[at] for label, values in short.items() if "Harbour" in label][1:]
    assert others == ["met"] * 4
    closed = those("Externals", NOT_YET)
    at = closed["Number"].index(told["all but the externals"])
    assert [v[at] for label, v in closed.items() if "Harbour" in label][1:] == ["met"] * 4
    twice = short["Number"].index(told["not twice"])
    assert own[twice] == 46


def test_grades_stand_side_by_side_and_an_award_may_be_a_condition_and_a_split(
    demo: Place,
) -> None:
    grades = [{**LEVEL_2, "rule": f"Subject endorsement, {g}"} for g in ("Merit", "Excellence")]
    body = body_of(demo, {"what": grades})
    assert [award.name for award in body.awards] == [g["rule"] for g in grades]
    assert body.awards[0].met > body.awards[1].met > 0
    met = {"measure": LEVEL_2, "level": ["met"]}
    narrowed = body_of(demo, {"what": grades, "who": {"all": [met]}})
    assert narrowed.awards[0].n == body_of(demo, {"what": [LEVEL_2]}).awards[0].met
    split = demo.ask({"show": "table", "what": [CREDITS], "split": [{"level_of": LEVEL_2}]})
    labels = [row.label.split(": ")[-1] for row in split.body.rows]
    assert labels[:3] == ["not yet", "on course", "met"]


def test_earlier_years_are_told_and_what_estimates_were_worth(demo: Place) -> None:
    before = {**LEVEL_2, "of": {**CREDITS, "sitting": "2024-25"}}
    body = body_of(demo, {"what": [before]})
    assert body.counting == "banked and estimated"
    assert body.awards[0].met > 0
    now = body_of(demo, {"what": [LEVEL_2]})
    whole, *subjects = now.estimates
    assert whole.estimates == sum(one.estimates for one in subjects)
    assert whole.reached is not None
    assert 0.8 < whole.reached / whole.outcomes < 0.95
    assert body_of(demo, {"what": [{**LEVEL_2, "counting": "banked"}]}).estimates == []


def test_where_schools_are_drawn_by_lot_few_are_marked(demo: Place) -> None:
    """Of answers in which no school differs about one in twenty may mark one."""
    question = read_question({
        "show": "awards", "what": [LEVEL_2], "split": [{"field": "school"}], "reference": [],
        "who": {"all": [{"field": "year_level", "in": [11]}]},
    })  # fmt: skip
    rng = np.random.default_rng(5)
    marked = 0
    for n in range(40):
        drawn = copy(demo.snapshot)
        drawn.key, drawn.rolls = f"by lot {n}", [copy(roll) for roll in drawn.rolls]
        for roll in drawn.rolls:
            school = np.array(roll.school)
            at = np.flatnonzero((school >= 0) & (np.asarray(roll.year_level) == 11))
            school[at] = school[rng.permutation(at)]
            roll.__dict__["school"], roll.key = school, f"{roll.key} by lot {n}"
        body = answer_on(bind(question, drawn)).body
        assert isinstance(body, AwardsBody)
        assert len(body.rows) == 11
        marked += any(row.verdict in ("ahead", "behind") for row in body.rows)
    assert marked <= 5


def test_what_cannot_be_asked_says_what_can(demo: Place) -> None:
    with pytest.raises(NotFound, match="Harbour award level 9"):
        demo.ask({"what": [{**LEVEL_2, "rule": "Harbour award level 9"}]})
    with pytest.raises(InvalidQuestion, match="whole award"):
        demo.ask({"show": "awards", "what": [{**LEVEL_2, "condition": "Writing"}]})
    with pytest.raises(InvalidQuestion, match="by its name"):
        demo.ask({"what": [{"derive": "award", "of": CREDITS}]})
    with pytest.raises(InvalidQuestion, match="in credits"):
        demo.ask({"what": [{**LEVEL_2, "condition": "Number"}],
                  "against": {"threshold": {"rule": "Mainland entry"}}})  # fmt: skip


HEAD = "Number,Standard,Subject,Level,Kind,Credits,Result,Banked,Date\n"
RULE = "Award,Condition,Credits,Standards,Joins\nTide,Total,10,,\nTide,Same,,B1|B2,once\n"


@pytest.fixture
def tarn(place: Place) -> Place:
    """Two schools of twelve, a student of which moved between them."""
    people = [(f"{n:03d}", "Tarn" if n <= 12 else "Orme", 11) for n in range(1, 25)]
    place.bring("roster", roster(people), "r.csv", academic_year="2025-26", as_of="2025-09-01")
    place.bring("award", RULE, "rule.csv")
    return place


def brought(place: Place, records: list[str], name: str = "c.csv") -> list[AwardCondition]:
    place.bring("credits", HEAD + "\n".join(records) + "\n", name)
    return body_of(place, {"what": [{**LEVEL_2, "rule": "Tide"}]}).conditions


def filled(*records: str) -> list[str]:
    """Records, and eleven others who have met it, so that nobody is alone."""
    return [*records, *(f"{n:03d},A9,Art,1,internal,10,Merit,,2026-02-01" for n in range(2, 13))]


@pytest.mark.parametrize(
    ("records", "state"),
    [
        (["001,A1,Art,1,x,9,Merit,,2026-02-01", "001,A1,Art,1,x,10,Merit,,2026-03-01"], MET),
        (["001,A1,Art,1,x,6,Merit,,2026-02-01", "001,A1,Art,1,x,6,Merit,,2026-03-01"], NOT_YET),
        (["001,A1,Art,1,x,6,Merit,,2026-02-01", "001,A2,Art,1,x,4,Merit,est,2026-03-01"],
         ON_COURSE),
        (["001,A1,Art,1,x,10,Merit,est,2026-02-01", "001,A1,Art,1,x,4,Merit,est,2026-03-01"],
         NOT_YET),
        (["001,B1,Art,1,x,5,Merit,,2026-02-01", "001,B2,Art,1,x,5,Merit,,2026-03-01"], NOT_YET),
        ([f"001,T{n},Art,1,x,0.1,Merit,,2026-02-01" for n in range(100)], MET),
        ([f"001,T{n},Art,1,x,0.1,Merit,,2026-02-01" for n in range(99)], NOT_YET),
    ],
)  # fmt: skip
def test_each_standard_counts_once_and_sums_are_exact(
    tarn: Place, records: list[str], state: int
) -> None:
    wanted = [0, 0, 11]
    wanted[state] += 1
    assert brought(tarn, filled(*records))[-1].counts == wanted


def test_practice_results_make_estimates_that_follow_them(tarn: Place) -> None:
    table = "Test,Score,Value,Standard,Subject,Result,Credits\n"
    table += "Mock,grade,C,P1,,Achieved,4\nMock,grade,B,P1,,Merit,6\nMock,grade,A,P1,,Merit,10\n"
    tarn.bring("practice", table, "practice.csv")
    tarn.bring("scale", "Test,Score,Step,Pass\n" + "".join(
        f"Mock,grade,{g},{p}\n" for g, p in (("D", "no"), ("C", "yes"), ("B", "yes"), ("A", "yes"))
    ), "scale.csv")  # fmt: skip
    grades = ["A"] * 6 + ["B"] * 5 + ["D"]
    mock = "Number,Grade\n" + "".join(f"{n:03d},{g}\n" for n, g in enumerate(grades, 1))
    tarn.bring("results", mock, "mock.csv", test="Mock", sitting="March", date="2026-03-02")
    tide = {"what": [{**LEVEL_2, "rule": "Tide"}]}
    # Whoever has a D has no record, and stays out.
    assert body_of(tarn, tide).conditions[-1].counts == [5, 6, 0]
    tarn.bring("credits", HEAD + "007,B9,Art,1,x,4,Merit,,2026-02-01\n", "c.csv")
    assert body_of(tarn, tide).conditions[-1].counts == [4, 7, 0]
    # An estimate of a newer day holds, though it is lower.
    later = HEAD + "001,P1,Art,1,x,4,Achieved,est,2026-05-01\n"
    tarn.bring("credits", later, "later.csv")
    assert body_of(tarn, tide).conditions[-1].counts == [5, 6, 0]
    better = mock.replace("012,D", "012,A")
    tarn.bring("results", better, "mock2.csv", test="Mock", sitting="March", date="2026-03-02")
    assert body_of(tarn, tide).conditions[-1].counts == [5, 7, 0]


def test_predictions_make_estimates_where_the_table_says_so(tarn: Place) -> None:
    table = "Test,Role,Score,Value,Standard,Standard subject,Result,Credits\n"
    tarn.bring("practice", f"{table}Mock,predicted,grade,A,P1,Art,Merit,10\n", "practice.csv")
    mock = "Number,Grade,Predicted grade\n" + "".join(f"{n:03d},B,A\n" for n in range(1, 13))
    tarn.bring("results", mock, "mock.csv", test="Mock", sitting="March", date="2026-03-02")
    body = body_of(tarn, {"what": [{**LEVEL_2, "rule": "Tide"}]})
    assert body.conditions[-1].counts == [0, 12, 0]


def test_a_rule_may_change_with_a_school_year_and_a_newer_table_takes_its_place(
    tarn: Place,
) -> None:
    rows = filled("001,A1,Art,1,x,8,Merit,,2026-02-01", "001,A0,Art,1,x,1,Merit,,2025-02-01")
    assert brought(tarn, rows)[-1].counts == [1, 0, 11]
    tarn.bring("award", "Award,Condition,Credits,School year\nTide,Total,8,2025-26\n", "r2.csv")
    tide = {**LEVEL_2, "rule": "Tide"}
    assert body_of(tarn, {"what": [tide]}).conditions[-1].counts == [0, 0, 12]
    before = {**tide, "of": {**CREDITS, "sitting": "2024-25"}}
    today = {"who": {"as_of": "today"}}
    assert body_of(tarn, {"what": [before], **today}).conditions[0].needed == 10
    newest = change_standing(tarn.engine, tarn.settings, OPERATOR, 4, "undone")
    assert newest.version == 5
    assert body_of(tarn, {"what": [tide]}).conditions[-1].counts == [1, 0, 11]


def test_a_year_level_has_an_award_of_its_own(place: Place) -> None:
    people = [(f"{n:03d}", "Tarn", 11 if n <= 14 else 12) for n in range(1, 25)]
    place.bring("roster", roster(people), "r.csv", academic_year="2025-26", as_of="2025-09-01")
    records = [f"{n:03d},A1,Art,1,x,{8 if n % 2 else 12},Merit,,2026-02-01" for n in range(1, 25)]
    place.bring("credits", HEAD + "\n".join(records) + "\n", "c.csv")
    rules = ("Award,Condition,Credits,Year level\nTide,Total,10,Year 11\nTide,Total,12,12\n"
             "Tide,Total,20,\n")  # fmt: skip
    place.bring("award", rules, "rule.csv")
    counts = {}
    for name in ("Tide", "Tide, Year 11", "Tide, Year 12"):
        body = body_of(place, {"what": [{**LEVEL_2, "rule": name}]})
        counts[name] = (body.conditions[-1].counts, body.conditions[-1].missing)
    assert counts == {
        "Tide": ([24, 0, 0], 0), "Tide, Year 11": ([7, 0, 7], 10),
        "Tide, Year 12": ([5, 0, 5], 14),
    }  # fmt: skip
    snapshot = place.snapshot
    at = [str(number) for number in np.asarray(snapshot.numbers)].index("001")
    page = credits_of(snapshot, at)
    assert page is not None
    assert [one.name for one in page.awards] == ["Tide, Year 11", "Tide"]
    # A newer table about one year level leaves the others as they are.
    place.bring("award", "Award,Condition,Credits,Year level\nTide,Total,8,11\n", "r2.csv")
    body = body_of(place, {"what": [{**LEVEL_2, "rule": "Tide, Year 11"}]})
    assert body.conditions[-1].counts == [0, 0, 14]
    body = body_of(place, {"what": [{**LEVEL_2, "rule": "Tide, Year 12"}]})
    assert body.conditions[-1].counts == [5, 0, 5]


def test_a_lead_sees_the_records_of_own_students_alone(tarn: Place) -> None:
    tarn.account("lead", "school_lead", "Tarn")
    brought(tarn, [f"{n:03d},A{k},Art,1,x,{n % 7 + 1},Merit,,2026-02-01"
                   for n, k in product(range(1, 25), range(3))])  # fmt: skip
    lead = actor_named(tarn.engine, "lead")
    tide = {"what": [{**LEVEL_2, "rule": "Tide"}], "show": "awards"}
    own = tarn.ask(tide, lead).body
    assert isinstance(own, AwardsBody)
    assert [one.n for one in own.conditions] == [12, 12]
    everybody = tarn.ask({**tide, "split": [{"field": "school"}]}).body
    assert isinstance(everybody, AwardsBody)
    there = next(row for row in everybody.rows if row.label == "Tarn")
    assert own.conditions[-1].counts == there.counts
    assert own.reference == []


def test_two_conditions_may_ask_the_same_and_a_name_is_one_whatever_its_case(
    tarn: Place,
) -> None:
    rule = "Award,Grade,Condition,Credits,School year\nEbb,Merit,One,10,\nEbb,merit,Two,10,\n"
    tarn.bring("award", rule, "ebb.csv")
    tarn.bring("award", "Award,Grade,Condition,Credits,School year\n"
               "EBB,MERIT,One,12,2027-28\n", "later.csv")  # fmt: skip
    brought(tarn, filled("001,A1,Art,1,x,9,Merit,,2026-02-01"))
    ebb = body_of(tarn, {"what": [{**LEVEL_2, "rule": "ebb, merit"}],
                         "options": {"condition": "Two"}})  # fmt: skip
    assert [one.counts for one in ebb.conditions] == [[1, 0, 11]] * 3
    assert [(one.banked, one.short, one.state) for one in ebb.near] == [(9, 1, 0)]


def test_of_few_no_share_is_said(tarn: Place) -> None:
    tarn.bring("credits", HEAD + "001,A1,Art,1,x,9,Merit,,2026-02-01\n", "c.csv")
    answer = tarn.ask({"show": "awards", "what": [{**LEVEL_2, "rule": "Tide"}]})
    assert answer.readings[0].text == ("1 student with records: too few to say shares of.")
    assert not any("%" in one.text for one in answer.readings)


def test_a_school_that_a_student_left_sees_the_records_until_then(place: Place) -> None:
    there = [(f"{n:03d}", "Tarn" if n <= 12 else "Orme", 10) for n in range(1, 25)]
    place.bring("roster", roster(there), "a.csv", academic_year="2024-25", as_of="2024-09-01")
    now = [(number, "Orme" if number == "001" else school, 11) for number, school, _ in there]
    place.bring("roster", roster(now), "b.csv", academic_year="2025-26", as_of="2025-09-01")
    place.bring("award", RULE, "rule.csv")
    rows = [f"{n:03d},A{k},Art,1,x,{5 if k == 0 else 7},Merit,,202{5 + k}-02-01"
            for n in range(1, 25) for k in (0, 1)]  # fmt: skip
    place.bring("credits", HEAD + "\n".join(rows) + "\n", "c.csv")
    place.account("lead", "school_lead", "Tarn")
    lead = actor_named(place.engine, "lead")
    student = student_of_number(place.engine, place.settings, lead, "001")
    page = student_page(place.engine, place.settings, lead, student)
    assert page.credits is not None
    assert (page.credits.school_year, [r.credits for r in page.credits.records]) == (
        "2024-25", [5.0],
    )  # fmt: skip
    tide = {"show": "awards", "what": [{**LEVEL_2, "rule": "Tide"}]}
    assert place.ask(tide, lead).body.conditions[0].n == 11
    before = {**LEVEL_2, "rule": "Tide", "of": {**CREDITS, "sitting": "2024-25"}}
    body = place.ask({"show": "awards", "what": [before]}, lead).body
    assert (body.conditions[0].n, body.conditions[0].counts) == (12, [12, 0, 0])
    whole = student_page(place.engine, place.settings, OPERATOR, student)
    assert whole.credits is not None
    assert whole.credits.awards[0].state == "met"


def test_names_that_mean_the_same_count_as_one_subject(tarn: Place) -> None:
    tarn.bring("award", "Award,Condition,Credits,Subjects\nWide,Two,4,2\n", "wide.csv")
    rows = [f"{n:03d},{s},{s},1,x,4,Merit,,2026-02-01" for n in range(1, 13)
            for s in ("Art", "Fine art")]  # fmt: skip
    tarn.bring("credits", HEAD + "\n".join(rows) + "\n", "c.csv")
    wide = {"what": [{**LEVEL_2, "rule": "Wide"}]}
    assert counts(body_of(tarn, wide))["Two"] == [0, 0, 12]
    tarn.bring("names", "What,Name,Means\nsubject,Fine art,Art\n", "names.csv")
    assert counts(body_of(tarn, wide))["Two"] == [12, 0, 0]

"""What a mark says is what it opens: for every show, split, measure, date and role.

A mark carries a small change to its question; whatever a screen does with a mark sends that change
back. The list that it gives counts exactly the mark's students, at the mark's sitting.
"""

from __future__ import annotations

import itertools
import json
from collections.abc import Iterator
from typing import Any

import pytest
from tests.support import Place, signed_in

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.asking.answer import Answer
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.beside.groups import save_group
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.cli.demo import PASSWORD
from bridge_chart.terms.answer import Mark
from bridge_chart.terms.people import Actor
from bridge_chart.terms.question import Open

SURVEY: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics"}
MATHS = {**SURVEY, "sitting": "spring 2026"}
BEFORE = {**SURVEY, "sitting": "spring 2025"}
EACH = {**MATHS, "subject": "each"}
CHECK: dict[str, Any] = {"assessment": "Harbour check", "sitting": "winter 2026"}
CERTIFICATE: dict[str, Any] = {"assessment": "Harbour certificate", "subject": "Geography"}
PRIOR: dict[str, Any] = {"prior": {}}
EIGHTH: dict[str, Any] = {"all": [{"field": "year_level", "in": [8]}]}
TODAY: dict[str, Any] = {**EIGHTH, "as_of": "today"}
SEX: dict[str, Any] = {"characteristic": "Sex"}
EARLIER: dict[str, Any] = {
    "earlier": {"measure": {"assessment": "same", "subject": "same", "sitting": {"back": 1}}}
}
SCHOOL: dict[str, Any] = {"field": "school"}
CLASS: dict[str, Any] = {"field": "class"}
POPULATIONS: dict[str, Any] = {"populations": [
    {"label": "girls", "who": {"all": [{"characteristic": "Sex", "in": ["F"]}]}},
    {"label": "Fernhollow last year", "who": {
        "as_of": {"year": "2024-25"}, "all": [{"field": "school", "in": ["Fernhollow"]}]}},
    {"label": "everybody", "who": {}},
]}  # fmt: skip
SPLITS: list[dict[str, Any]] = [
    SCHOOL, CLASS, {"field": "teacher"}, {"field": "year_level"}, SEX,
    {"characteristic": "Home language"}, {"band": "prior"}, {"band": BEFORE},
    {"level_of": BEFORE}, POPULATIONS,
    {"field": "school", "as_of": {"year": "2024-25"}},
]  # fmt: skip
OWN_EIGHTH = {"all": [*EIGHTH["all"], {"field": "school", "in": ["Fernhollow"]}]}
FORM_A = {**CHECK, "form": "A"}
STRANDS = {**CHECK, "part": {"kind": "strand", "is": "each"}}
HALVES = {**MATHS, "grain": "half"}
GRADES = [CERTIFICATE, {**CERTIFICATE, "role": "predicted"}]
SHARE = {"measure": MATHS, "statistic": "share", "cut": "Secure"}
BOTH = {"measure": MATHS, "statistic": "share", "meets": [
    {"measure": {**MATHS, "score": "level"}, "level": ["Secure", "Strong", "Exceptional"]},
    {"measure": {**MATHS, "subject": "Reading"}, "from": 320}]}  # fmt: skip
BELOW = {"measure": {"derive": "span", "of": MATHS, "against": PRIOR}, "below": 0}


BACK = {"assessment": "same", "subject": "same", "sitting": {"back": 1}}
EIGHTH_OF_BOTH = {"all": [{"field": "year_level", "in": [8, 9]}]}
WORDS = [
    {"derive": "status", "of": MATHS, "against": PRIOR},
    {"derive": "status", "of": {**MATHS, "score": "level"}, "against": {"earlier": {
        "measure": BACK}}},
    {"derive": "status", "of": MATHS, "against": {"growth_table": {
        "goal": "expected", "from": BACK}}},
    {"derive": "growth_percentile", "of": MATHS},
    {"derive": "convert", "of": {**MATHS, "subject": "Reading"}, "table": "Book band"},
]  # fmt: skip
LEVEL_2 = {"derive": "award", "of": {"assessment": "Credits"}, "rule": "Harbour award level 2"}
MOCK = {"assessment": "Harbour mock", "subject": "Mathematics"}
CERTIFICATE = {"assessment": "Harbour certificate", "subject": "Mathematics"}


def question(show: str, what: Any = MATHS, **more: Any) -> dict[str, Any]:
    return {"show": show, "who": EIGHTH, "what": what if isinstance(what, list) else [what], **more}


CASES: list[dict[str, Any]] = [
    *(question("spans", split=[split], against=PRIOR) for split in SPLITS),
    *(question("table", split=[split], who={}) for split in SPLITS),
    *(question("levels", split=[split]) for split in SPLITS),
    *(question("spread", split=[split]) for split in (SEX, POPULATIONS, SCHOOL)),
    *(question("over_time", SURVEY, split=[split]) for split in (SCHOOL, SEX, POPULATIONS)),
    *(question("sure", split=[split], against=PRIOR) for split in (SCHOOL, SEX)),
    question("over_time", SURVEY, who=TODAY, split=[SEX]),
    question("over_time", SURVEY, who=TODAY, cohort="matched", split=[SEX]),
    question("over_time", SURVEY, against=PRIOR, split=[SCHOOL]),
    question("over_time", SURVEY, against={"earlier": {"measure": {
        "assessment": "same", "subject": "same", "sitting": {"back": 1}}}}, split=[SEX]),
    question("over_time", [BEFORE, MATHS], split=[SEX]),
    question("table", EACH, split=[SCHOOL], against=PRIOR),
    question("table", [MATHS, BEFORE], split=[SEX]),
    question("table", [MATHS, BEFORE], split=[SEX], who=TODAY, cohort="matched"),
    question("table", [{**MATHS, "sitting": "each"}], split=["sitting", SEX]),
    question("table", STRANDS, split=[SEX], who={}),
    question("table", [STRANDS, {**STRANDS, "score": "raw"}], who={}),
    question("table", {**CHECK, "form": "A", "score": "raw"}, split=[CLASS], who={}),
    question("table", {"derive": "percentile", "of": MATHS}, split=[SEX]),
    question("spans", split=[SCHOOL, SEX], against=PRIOR),
    question("spans", split=[SCHOOL], against={"nation": {}}),
    question("table", split=[{"band": BEFORE, "scheme": {"cuts": [300, 320, 340]}}]),
    question("spans", split=[SEX], against={"group": {"who": {}}}),
    question("spans", split=[SCHOOL], who=TODAY, against=PRIOR),
    question("levels", HALVES, split=[SCHOOL]),
    question("levels", split=[SCHOOL], against=PRIOR),
    question("levels", EACH, split=[SEX]),
    question("levels", GRADES, who={}),
    question("levels", {"measure": MATHS, "statistic": "share", "cut": "Strong"}, split=[SEX]),
    question("spread", [MATHS, {**MATHS, "subject": "Reading"}], split=[POPULATIONS]),
    question("spans", SHARE, split=[SCHOOL]),
    question("table", [SHARE, BOTH], split=[SEX]),
    question("over_time", {**SHARE, "measure": SURVEY}, split=[SEX]),
    question("start_to_now", split=[SEX]),
    question("start_to_now", against=PRIOR),
    *(question("movement", split=[split], against=EARLIER) for split in (SCHOOL, SEX, POPULATIONS)),
    question("movement", HALVES, split=[SEX], against=EARLIER),
    question("movement", who=TODAY, split=[CLASS], against=EARLIER),
    *(question("growth", split=[split], against=EARLIER) for split in (SCHOOL, SEX, POPULATIONS)),
    question("growth", who=TODAY, split=[CLASS], against=EARLIER, options={"priors": 2}),
    *(question("pace", split=[split], against=EARLIER) for split in (SCHOOL, SEX)),
    *(question("standing", split=[SCHOOL], against=against) for against in (
        PRIOR, EARLIER, {"nation": {}}, {"growth_table": {"goal": "ambitious", "from": BACK}})),
    question("chances", MOCK, who={}),
    question("trial", MOCK, who={}, split=[SCHOOL], against=PRIOR),
    question("trial", MOCK, who={}, split=[SEX], options={"wanted": 0.6}),
    question("trial", split=[SCHOOL], options={"wanted": 0.9, "each": "any"}),
    question("chances", who=EIGHTH_OF_BOTH),
    question("standing", CERTIFICATE, split=[SEX], who={}, against={"target": {"kind": "floor"}},
             options={"also": ["personal"]}),
    *(question("levels", word, split=[SCHOOL]) for word in WORDS),
    question("levels", {"derive": "status", "of": MOCK, "against": {"target": {
        "kind": "personal"}}}, split=[SCHOOL], who={}),
    question("table", {"derive": "pace", "of": MATHS}, split=[SEX]),
    question("table", {"derive": "projected", "of": MATHS}, split=[SCHOOL]),
    question("spans", split=[SCHOOL], against={"growth_table": {"goal": "ambitious",
                                                               "from": BEFORE}}),
    question("awards", LEVEL_2, split=[SCHOOL], who={}),
    question("awards", LEVEL_2, split=[SEX], who={}, options={"condition": "Writing"}),
    question("awards", {**LEVEL_2, "counting": "banked"}, split=[CLASS], who={}),
    question("awards", [{**LEVEL_2, "rule": f"Subject endorsement, {grade}"}
                        for grade in ("Merit", "Excellence")], split=[SEX], who={}),
    question("levels", {**LEVEL_2, "condition": "Reading"}, split=[POPULATIONS], who={}),
    question("table", LEVEL_2, split=[{"level_of": {**LEVEL_2, "condition": "Number"}}], who={}),
    question("spans", {**LEVEL_2, "condition": "Level total"}, split=[SCHOOL], who={}, against={
        "threshold": {"rule": "Harbour award level 2", "condition": "Level total"}}),
    question("over_time", {"measure": {**LEVEL_2, "of": {
        "assessment": "Credits", "sitting": "each"}}, "statistic": "share"}, split=[SEX], who={}),
    question("items", FORM_A, split=[CLASS], who={}),
    question("items", FORM_A, split=[SEX], who={}, options={"look": "Q8"}),
    question("items", {"assessment": "Harbour certificate", "subject": "Science"}, split=[SEX],
             who={}, options={"by": "paper"}),
    question("spread", {**FORM_A, "score": "raw"}, split=[POPULATIONS], who={}),
    question("items", FORM_A, split=[SEX], against={"group": {"who": OWN_EIGHTH}}),
    question("items", FORM_A, split=[POPULATIONS], who={}, options={"by": "strand"}),
    question("bias", FORM_A, split=[SEX], who={}),
    question("bias", FORM_A, split=[{"characteristic": "Home language"}], who={}),
    question("make_up", focus=[BELOW]),
    question("make_up", focus=[{"not": BELOW}], split=[CLASS], against=PRIOR),
]  # fmt: skip


def marks_in(value: Any) -> Iterator[Mark]:
    """Every mark of a body, however deep."""
    if isinstance(value, Mark):
        yield value
    if isinstance(value, list):
        for item in value:
            yield from marks_in(item)
    elif hasattr(value, "model_fields_set"):
        for name in type(value).model_fields:
            yield from marks_in(getattr(value, name))


def some(marks: list[Mark], most: int) -> list[Mark]:
    """The ends and evenly many between; all where there are few."""
    if len(marks) <= most:
        return marks
    return [marks[round(n * (len(marks) - 1) / (most - 1))] for n in range(most)]


def sat(answer: Answer, at: int) -> tuple[Any, ...]:
    """Test, subject, sitting, role and part of one of the answer's measures."""
    asked: Any = answer.measures[at].asked
    while not hasattr(asked, "assessment"):
        asked = getattr(asked, "of", None) or asked.measure
    part = asked.part.is_ if asked.part else None
    return asked.assessment, asked.subject, asked.sitting, asked.role, asked.kind, part


def check_mark(place: Place, asked: dict[str, Any], answer: Answer, mark: Any, who: Actor) -> None:
    listed = place.opened(asked, mark.opens, who, page={"size": 1})
    covered = listed.coverage[0]
    assert (covered.counted, covered.population) == (mark.n, mark.n + mark.missing), mark
    if hasattr(mark, "measure"):
        assert sat(listed, 0) == sat(answer, mark.measure)
    if answer.body.show == "levels" and hasattr(mark, "bars"):
        assert [bar.n for bar in mark.bars] == mark.counts
        assert all((bar.opens is not None) == (bar.n > 0) for bar in mark.bars)


@pytest.mark.parametrize("login", [None, "rowan"], ids=["district", "school"])
@pytest.mark.parametrize("asked", CASES, ids=lambda c: f"{c['show']} {json.dumps(c)[20:120]}")
def test_every_mark_opens_the_students_that_it_counts(
    demo: Place, asked: dict[str, Any], login: str | None, many: int
) -> None:
    who = actor_named(demo.engine, login) if login else OPERATOR
    answer = demo.ask(asked, who)
    marks = [mark for mark in marks_in(answer.body) if mark.opens is not None]
    assert marks or answer.body.show in ("make_up", "start_to_now")
    for mark in some(marks, many):
        check_mark(demo, asked, answer, mark, who)
    for covered in answer.coverage:
        whole = demo.opened(asked, covered.opens, who, page={"size": 1})
        assert (whole.coverage[0].population, whole.coverage[0].counted) == (
            covered.population, covered.counted,
        )  # fmt: skip
        assert sat(whole, 0) == sat(answer, covered.measure)
        for missing in covered.missing:
            listed = demo.opened(asked, missing.opens, who, page={"size": 1})
            assert (listed.coverage[0].population, listed.coverage[0].counted) == (missing.n, 0)


@pytest.mark.parametrize("login", [None, "rowan"], ids=["district", "school"])
@pytest.mark.parametrize("asked", [c for c in CASES if c["show"] == "make_up"], ids=str)
def test_a_make_up_opens_its_set_and_each_category_of_it(
    demo: Place, asked: dict[str, Any], login: str | None
) -> None:
    who = actor_named(demo.engine, login) if login else OPERATOR
    body = demo.ask(asked, who).body
    assert demo.opened(asked, body.opens, who).coverage[0].population == body.set_size > 0
    for entry in body.entries:
        opened = demo.opened(asked, entry.opens, who, page={"size": 1})
        assert opened.coverage[0].population == entry.in_set


@pytest.mark.parametrize("against", [None, PRIOR, {"nation": {}}], ids=["none", "prior", "nation"])
def test_dots_are_those_counted_and_each_opens_its_student(demo: Place, against: Any) -> None:
    asked = question("start_to_now", split=[SEX], against=against)
    body = demo.ask(asked).body
    assert demo.opened(asked, body.opens).coverage[0].counted == body.n
    if against != PRIOR:
        return
    for n in (0, 7, len(body.dots.marks) - 1):
        mark = body.dots.marks[n]
        listed = demo.opened(asked, mark.opens).body
        assert listed.student == list(mark.opens.students)
        values = {column.key: column.values[0] for column in listed.columns}
        assert (values["prior"], values["score"]) == (body.dots.x[n], body.dots.y[n])


@pytest.mark.parametrize("login", [None, "rowan"], ids=["district", "school"])
@pytest.mark.parametrize("split", SPLITS, ids=str)
def test_a_heading_of_a_list_opens_those_who_stand_under_it(
    demo: Place, split: dict[str, Any], login: str | None
) -> None:
    who = actor_named(demo.engine, login) if login else OPERATOR
    asked = question("students", split=[split], against=PRIOR, page={"size": 20_000})
    body = demo.ask(asked, who).body
    assert body.groups
    for at, group in list(enumerate(body.groups))[:6]:
        under = {s for s, g in zip(body.student, body.in_group, strict=True) if g == at}
        assert len(under) == group.n
        opened = demo.opened(asked, group.opens, who, page={"size": 20_000})
        assert set(opened.body.student) == under


def test_narrowing_asks_the_same_of_the_marks_students(demo: Place) -> None:
    for asked in (question("spans", EACH, split=[SCHOOL], against=PRIOR),
                  question("over_time", SURVEY, split=[SCHOOL])):  # fmt: skip
        answer = demo.ask(asked)
        mark = next(m for m in reversed(list(marks_in(answer.body))) if m.opens)
        listed = demo.opened(asked, mark.opens)
        narrowed = demo.ask(listed.narrowed.model_dump(by_alias=True))
        assert narrowed.body.show == asked["show"]
        same = [c for c in narrowed.coverage if sat(narrowed, c.measure) == sat(listed, 0)]
        assert same[0].population == mark.n + mark.missing
    assert demo.opened(asked, answer.coverage[0].opens).narrowed is None


def test_a_live_link_stays_live(demo: Place) -> None:
    """A mark keeps what the question left open: the latest sitting stays the latest."""
    asked = question("spans", {**SURVEY, "sitting": "latest"}, split=[SCHOOL])
    mark = demo.ask(asked).body.rows[0]
    assert mark.opens.what.sitting is None
    each = question("table", {**SURVEY, "sitting": "latest", "subject": "each"})
    for row in demo.ask(each).body.rows:
        assert row.opens.what.subject is not None
        assert row.opens.what.sitting is None


def test_many_marks_stay_small(demo: Place) -> None:
    rows = demo.ask(question("table", split=[CLASS], who={})).body.rows
    sizes = [len(row.opens.model_dump_json(by_alias=True)) for row in rows]
    assert len(rows) > 100
    assert max(sizes) < 80


def test_a_group_of_a_mark_is_the_students_that_it_opens(demo: Place) -> None:
    asked = question("over_time", SURVEY, split=[SCHOOL])
    series = demo.ask(asked).body.series[0]
    first = series.points[0]
    change = first.opens.model_dump(mode="json", by_alias=True)
    marked = read_question({**asked, "open": change})
    for kind in ("list", "rule"):
        name = f"A point of the past as a {kind}"
        made = save_group(demo.engine, demo.settings, OPERATOR, name, kind, marked)
        there = {**SURVEY, "sitting": first.opens.what.sitting}
        who = {"all": [{"set": made.id}]}
        covered = demo.ask({"what": [there], "who": who}).coverage[0]
        assert (covered.counted, covered.population) == (first.n, first.n + first.missing)


def test_a_mark_is_opened_over_http_and_in_an_export(demo: Place) -> None:
    asked = question("levels", EACH, split=[SCHOOL])
    row = demo.ask(asked, actor_named(demo.engine, "ailsa")).body.rows[0]
    change = {**row.opens.model_dump(mode="json", by_alias=True), "level": ["Secure"]}
    with signed_in(demo, password=PASSWORD) as client:
        told = client.post("/api/answers", json={**asked, "open": change}).get_json()
        lines = client.post("/api/exports/csv", json={**asked, "open": change}).get_data(
            as_text=True
        )
    assert told["coverage"][0]["counted"] == row.counts[2]
    assert len(lines.splitlines()) == 1 + row.counts[2]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"what": {"at": 5}}, "stands for measure 6"),
        ({"what": {"at": 0, "subject": 999_999}}, "no subject"),
        ({"add": [{"field": "school", "in": ["Nowhere"]}]}, "no school"),
        ({"level": ["Sublime"]}, "no level"),
        ({"students": [999_999_999]}, "no student"),
        ({"sort": [{"by": "shoe size"}]}, "cannot be sorted"),
    ],
)
def test_a_mark_that_cannot_be_says_why(demo: Place, change: dict[str, Any], says: str) -> None:
    with pytest.raises(Exception, match=says):
        demo.opened(question("spans", split=[SCHOOL]), Open.model_validate(change))


def test_the_cases_cover_every_show_that_has_marks() -> None:
    shows = {case["show"] for case in CASES}
    # Lists are what marks open, and the strip's entries are splits: all others have marks.
    assert shows == set(SHOWS) - {"students", "strip"}
    assert len(list(itertools.chain(CASES))) > 50

"""Whose figures: what a school lead gets is their students, and what is published of others."""

from __future__ import annotations

import datetime as dt
from typing import Any

import numpy as np
import pytest
from tests.support import Place, roster

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.releases import make_release, releases
from bridge_chart.access.scoped import ScopedSnapshot, in_scope, seen_by
from bridge_chart.access.sight import say_who_sees, sights
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.beside.groups import list_groups, save_group
from bridge_chart.answers.beside.saved import add_note, list_questions, notes_on, save_question
from bridge_chart.answers.published.cells import Crowd, shown_set, shown_values
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import InvalidQuestion, NotAllowed, NotFound, NotPublished
from bridge_chart.terms.people import Actor, Scope

MATHS = {"assessment": "Spring survey", "subject": "Mathematics"}
EIGHTH = {"field": "year_level", "in": [8]}


@pytest.fixture(scope="module")
def rowan(demo: Place) -> Actor:
    return actor_named(demo.engine, "rowan")


@pytest.fixture(scope="module")
def own(demo: Place, rowan: Actor) -> Snapshot:
    return seen_by(demo.engine, demo.settings.snapshots, rowan)


def test_a_scoped_snapshot_holds_its_own_students_alone(demo: Place, own: Snapshot) -> None:
    """Every array is as long as the scope, and agrees with the whole where it says something."""
    whole = demo.snapshot
    assert isinstance(own, ScopedSnapshot)
    at = np.searchsorted(whole.student_ids, own.student_ids)
    assert (whole.student_ids[at] == own.student_ids).all()
    place = [s.name for s in whole.schools].index("Fernhollow")
    for roll in whole.rolls:
        cut = own.roll_at(roll.since)
        assert cut is not None
        there = np.asarray(roll.school)[at] == place
        assert ((cut.school == 0) == there).all()
        assert (np.asarray(cut.year_level)[~there] == -1).all()
        assert set(np.unique(cut.members[:, 0])) <= set(np.flatnonzero(there))
        assert int(np.count_nonzero(cut.school == 0)) == int(np.count_nonzero(roll.school == place))
    for measure in own.measures:
        values, seen = own.values(measure), own.seen(measure)
        assert len(values) == own.students
        assert np.isnan(values[~seen]).all()
        assert np.array_equal(values[seen], whole.values(measure)[at][seen], equal_nan=True)
        order = own.order(measure)
        assert (np.diff(values[order]) >= 0).all()
        assert len(order) == np.count_nonzero(~np.isnan(values))
        assert measure.set_aside == 0
    assert [s.name for s in own.schools] == ["Fernhollow"]
    assert {c.school_id for c in own.classes} == {own.schools[0].id}
    assert set(own.aliases.values()) <= set(range(own.students))
    for paper in own.marked_forms(own.measures[-1].sitting.id):
        assert len(paper.at) == len(paper.marks)


def test_every_array_of_a_scope_is_cut(demo: Place, own: Snapshot) -> None:
    """A new column of a snapshot cannot be forgotten: whatever has the length of the district
    would be found here."""
    whole = demo.snapshot
    measure, date = whole.measures[0], dt.date(2026, 5, 1)
    for name in dir(Snapshot):
        if name.startswith("_") or name in ("column",):
            continue
        for given in ((), (measure,), (date,)):
            found = _tried(own, name, given)
            for array in found if isinstance(found, tuple) else (found,):
                if isinstance(array, np.ndarray):
                    assert len(array) <= own.students < whole.students, name


def _tried(snapshot: Snapshot, name: str, given: tuple[Any, ...]) -> Any:
    value = getattr(snapshot, name)
    if not callable(value):
        return value
    try:
        return value(*given)
    except (TypeError, AttributeError, KeyError, StopIteration):
        return None


def test_no_column_of_the_whole_can_be_read_through_a_scope(own: Snapshot) -> None:
    with pytest.raises(AttributeError):
        own.column("numbers")


def test_whoever_has_no_school_has_nobody(demo: Place) -> None:
    whole = demo.snapshot
    nobody = in_scope(whole, whole, Scope(frozenset()))
    assert nobody.students == 0
    without = Actor(None, "x", "X", "school_lead")
    asked = {"what": [MATHS], "show": "students"}
    assert demo.ask(asked, without).body.student == []
    assert demo.ask({"what": [MATHS]}, without).coverage[0].population == 0


def test_an_older_version_opens_no_more_than_the_newest(place: Place) -> None:
    """A roster that put a school in the wrong hands is undone: nothing of it stays open."""
    place.bring("roster", roster([(str(n), "AB"[n % 2], 8) for n in range(40)]),
                academic_year="2025-26", as_of="2025-09-01")  # fmt: skip
    lines = "".join(f"{n},Quiz,{n}\n" for n in range(40))
    place.bring("results", f"Number,Test,Score\n{lines}", sitting="May", date="2026-05-01")
    place.account("lead", "school_lead", "A")
    lead = actor_named(place.engine, "lead")
    asked = {"what": [{"assessment": "Quiz"}], "show": "students"}
    before = place.ask(asked, lead).body.student
    assert len(before) == 20
    place.bring("roster", roster([(str(n), "A", 8) for n in range(40)]),
                academic_year="2025-26", as_of="2025-10-01")  # fmt: skip
    wrong = place.snapshot.version
    assert len(place.ask(asked, lead).body.student) == 40
    place.bring("roster", roster([(str(n), "AB"[n % 2], 8) for n in range(40)]),
                academic_year="2025-26", as_of="2025-10-02")  # fmt: skip
    assert place.ask({**asked, "version": wrong}, lead).body.student == before


class TestPublished:
    """The district beside one's own rows."""

    def test_the_nearest_question_that_is_published_is_offered(
        self, demo: Place, rowan: Actor
    ) -> None:
        finer = {"what": [MATHS], "who": {"all": [
            EIGHTH, {"characteristic": "Sex", "in": ["F"]},
            {"characteristic": "Meal support", "in": ["yes"]},
            {"measure": {**MATHS, "subject": "Reading"}, "from": 300},
        ]}}  # fmt: skip
        answer = demo.ask(finer, rowan)
        assert answer.body.reference == []
        (said,) = [w for w in answer.warnings if w.code == "not_published"]
        assert "one characteristic" in said.text
        assert said.instead is not None
        nearest = demo.ask({**finer, **said.instead}, rowan)
        assert [row.label for row in nearest.body.reference] == ["All schools"]
        assert nearest.body.reference[0].as_of is not None
        assert not [w for w in nearest.warnings if w.code == "not_published"]

    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"who": {"as_of": "today", "all": [EIGHTH]}}, "as of the sitting"),
            ({"cohort": "matched", "what": [MATHS, {**MATHS, "subject": "Reading"}],
              "show": "table"}, "all who have the score"),
            ({"what": [{"derive": "span", "of": MATHS, "against": {"prior": {}}}]}, "scores"),
            ({"what": [{"measure": MATHS, "statistic": "share", "cut": 331.5}]}, "scores"),
        ],
    )  # fmt: skip
    def test_what_is_finer_is_told_so(
        self, demo: Place, rowan: Actor, change: dict[str, Any], words: str
    ) -> None:
        answer = demo.ask({"what": [MATHS], "who": {"all": [EIGHTH]}, **change}, rowan)
        said = [w for w in answer.warnings if w.code == "not_published"]
        assert said
        assert words in said[0].text
        assert answer.body.reference == []

    @pytest.mark.parametrize("subject", ["Reading", "Mathematics"])
    @pytest.mark.parametrize("kind", ["prior", "earlier"])
    def test_a_start_of_ones_own_choice_makes_no_cell(
        self, demo: Place, rowan: Actor, kind: str, subject: str
    ) -> None:
        """Each makes a set of students of its own, and any two could be taken from each other."""
        start = {**MATHS, "subject": subject, "sitting": "spring 2025"}
        against = {"prior": {"priors": [start]}} if kind == "prior" else {
            "earlier": {"measure": start}
        }  # fmt: skip
        asked = {"what": [MATHS], "who": {"all": [EIGHTH]}, "against": against}
        answer = demo.ask(asked, rowan)
        told = [w for w in answer.warnings if w.code == "not_published"]
        declared = subject == "Mathematics"
        assert (len(answer.body.reference), len(told)) == ((1, 0) if declared else (0, 1))
        if not declared:
            assert told[0].instead is not None
            assert len(demo.ask({**asked, **told[0].instead}, rowan).body.reference) == 1

    def test_a_group_that_is_finer_is_refused_with_the_nearest(
        self, demo: Place, rowan: Actor
    ) -> None:
        fine = {"group": {"who": {"all": [EIGHTH, {"measure": MATHS, "from": 340}]}}}
        asked = {"what": [MATHS], "who": {"all": [EIGHTH]}}
        with pytest.raises(NotPublished) as refused:
            demo.ask({**asked, "against": fine}, rowan)
        nearest = demo.ask({**asked, **refused.value.details["instead"]}, rowan)
        assert nearest.body.rows[0].span is not None
        with pytest.raises(NotPublished, match="single scores"):
            demo.ask({**asked, "against": {"prior": {"expect": "equal_scores"}}}, rowan)

    def test_the_districts_curve_is_not_drawn(self, demo: Place, rowan: Actor) -> None:
        asked = {"what": [MATHS], "who": {"all": [EIGHTH]}, "show": "spread",
                 "split": [{"characteristic": "Sex"}]}  # fmt: skip
        own, whole = demo.ask(asked, rowan), demo.ask(asked)
        assert [c.pinned for c in whole.body.curves] == [True, False, False]
        assert [c.pinned for c in own.body.curves] == [False, False]
        assert [w.code for w in own.warnings].count("not_published") == 1
        assert own.measures[0].maximum < whole.measures[0].maximum  # one's own highest

    def test_levels_beside_the_district(self, demo: Place, rowan: Actor) -> None:
        asked = {"what": [MATHS], "who": {"all": [EIGHTH]}, "show": "levels"}
        (own,), (whole,) = (demo.ask({**asked, "split": [{"field": "school"}]}, who).body.reference
                            for who in (rowan, OPERATOR))  # fmt: skip
        assert (own.counts, own.n, own.means) == (whole.counts, whole.n, {})

    def test_nothing_is_shown_before_something_is_released(self, place: Place) -> None:
        _many(place)
        lead = actor_named(place.engine, "lead")
        asked = {"what": [{"assessment": "Quiz"}]}
        answer = place.ask(asked, lead)
        assert answer.body.reference == []
        assert "not been released" in answer.warnings[-1].text
        make_release(place.engine, OPERATOR, "May")
        assert [r.n for r in place.ask(asked, lead).body.reference] == [60]
        with pytest.raises(NotAllowed):
            make_release(place.engine, lead, "Mine")
        with pytest.raises(InvalidQuestion):
            make_release(place.engine, OPERATOR, "  ")
        assert [r.title for r in releases(place.engine)] == ["May"]

    def test_one_correction_waits_for_company(self, place: Place) -> None:
        """Two releases that differ in one score would tell it; in ten they do not."""
        _many(place)
        lead = actor_named(place.engine, "lead")
        asked = {"what": [{"assessment": "Quiz"}]}
        make_release(place.engine, OPERATOR, "first")
        first = place.ask(asked, lead).body.reference[0].mean
        place.bring("results", "Number,Test,Score\n1,Quiz,60\n", sitting="May", date="2026-05-01")
        make_release(place.engine, OPERATOR, "second")
        assert place.ask(asked, lead).body.reference[0].mean == first
        lines = "".join(f"{n},Quiz,{n + 1}\n" for n in range(1, 40, 3))
        place.bring("results", f"Number,Test,Score\n{lines}", sitting="May", date="2026-05-01")
        make_release(place.engine, OPERATOR, "third")
        assert place.ask(asked, lead).body.reference[0].mean != first
        assert place.ask(asked, lead).body.reference[0].mean == place.ask(asked).body.rows[0].mean


def _many(place: Place) -> None:
    """Three schools of twenty, one test."""
    place.bring("roster", roster([(str(n), "ABC"[n % 3], 8) for n in range(60)]),
                academic_year="2025-26", as_of="2025-09-01")  # fmt: skip
    lines = "".join(f"{n},Quiz,{n}\n" for n in range(60))
    place.bring("results", f"Number,Test,Score\n{lines}", sitting="May", date="2026-05-01")
    place.account("lead", "school_lead", "A")


class TestCells:
    def test_small_or_of_one_school_is_no_cell(self) -> None:
        school = np.repeat(np.arange(4), 10)
        crowd = Crowd(school, school == 0)
        assert crowd.hides(school >= 0)
        assert crowd.hides(school == 0)  # one's own
        assert not crowd.hides((school == 0) | (school == 1))  # the rest is one school
        two = np.isin(school, (1, 2))
        assert not crowd.hides(two)  # two schools
        few = (np.arange(40) % 10 < 2) & (school > 0)
        assert not crowd.hides(few)  # six students

    def test_what_is_held_back_is_never_the_rest_of_a_sum(self) -> None:
        school = np.tile(np.arange(4), 20)
        crowd, everyone = Crowd(school, school == 0), np.ones(80, bool)
        value = np.zeros(80, np.int64)
        value[40:78], value[78:] = 1, 2
        assert shown_values(crowd, everyone, value) == {0}
        value[60:] = 2
        assert shown_values(crowd, everyone, value) == {0, 1, 2}

    def test_sets_that_differ_in_few_are_not_both_shown(self) -> None:
        school = np.tile(np.arange(4), 20)
        crowd, everyone = Crowd(school, school == 0), np.ones(80, bool)
        most = everyone.copy()
        most[5] = False
        assert shown_set(crowd, [everyone, most], everyone)
        assert not shown_set(crowd, [everyone, most], most)
        half = np.arange(80) < 40
        assert shown_set(crowd, [everyone, most, half], half)
        assert not shown_set(crowd, [everyone], half)  # not among those that may be asked for


class TestSight:
    """Which role sees which characteristic, and colleagues' notes."""

    def test_a_characteristic_that_a_role_does_not_see_is_nowhere(self, place: Place) -> None:
        place.bring("roster", "Number,School,Year level,Plan\n1,A,8,yes\n2,A,8,no\n",
                    academic_year="2025-26")  # fmt: skip
        place.bring("results", "Number,Test,Score\n1,Quiz,5\n2,Quiz,7\n")
        place.account("lead", "school_lead", "A")
        lead = actor_named(place.engine, "lead")
        (plan,) = [s for s in sights(place.engine, OPERATOR) if s.label == "Plan"]
        asked = {"what": [{"assessment": "Quiz"}], "split": [{"characteristic": "Plan"}]}
        assert len(place.ask(asked, lead).body.rows) == 2
        say_who_sees(place.engine, OPERATOR, plan.what, sensitive=True, roles=["data_lead"])
        with pytest.raises(NotFound, match="no characteristic"):
            place.ask(asked, lead)
        assert len(place.ask(asked).body.rows) == 2
        listed = place.ask({"what": [{"assessment": "Quiz"}], "show": "students"}, lead)
        assert "Plan" not in listed.model_dump_json()
        say_who_sees(place.engine, OPERATOR, plan.what, sensitive=True, roles=None)
        assert len(place.ask(asked, lead).body.rows) == 2
        with pytest.raises(NotAllowed):
            say_who_sees(place.engine, lead, plan.what, sensitive=False, roles=None)
        with pytest.raises(InvalidQuestion, match="no role"):
            say_who_sees(place.engine, OPERATOR, plan.what, sensitive=False, roles=["king"])

    def test_notes_are_ones_own_until_they_are_shared(self, place: Place) -> None:
        _many(place)
        lead = actor_named(place.engine, "lead")
        question = read_question({"what": [{"assessment": "Quiz"}]})

        def read(actor: Actor) -> list[str]:
            return [n.text for n in notes_on(place.engine, place.settings, actor, question)]

        add_note(place.engine, place.settings, OPERATOR, question, "between us")
        add_note(place.engine, place.settings, OPERATOR, question, "for all", shared=True)
        assert read(OPERATOR) == ["between us", "for all"]
        assert read(lead) == ["for all"]
        say_who_sees(place.engine, OPERATOR, "notes", sensitive=False, roles=["data_lead"])
        assert read(lead) == []

    def test_what_others_share_tells_no_place_of_theirs(self, place: Place) -> None:
        """A saved question that names another school is not listed; a group that rests on one is
        whoever of it may be seen."""
        _many(place)
        lead = actor_named(place.engine, "lead")
        both = {"field": "school", "in": ["A", "B"]}
        other = {"field": "school", "in": ["B"]}
        for name, condition in (("Both", both), ("Other", other), ("Not B", {"not": other})):
            asked = read_question({"what": [{"assessment": "Quiz"}], "who": {"all": [condition]}})
            save_question(place.engine, place.settings, OPERATOR, name, asked, shared=True)
            save_group(place.engine, place.settings, OPERATOR, name, "rule", asked, shared=True)
            save_group(place.engine, place.settings, OPERATOR, f"{name} list", "list", asked,
                       shared=True)  # fmt: skip
        assert list_questions(place.engine, place.settings, lead) == []
        assert len(list_questions(place.engine, place.settings, OPERATOR)) == 3
        assert {g.students for g in list_groups(place.engine, lead)} == {None}

        def in_group(name: str) -> int:
            asked = {"what": [{"assessment": "Quiz"}], "who": {"all": [{"set": name}]}}
            return place.ask(asked, lead).coverage[0].population

        assert [in_group(n) for n in ("Both", "Other", "Not B")] == [20, 0, 20]
        assert [in_group(f"{n} list") for n in ("Both", "Other", "Not B")] == [20, 0, 20]

"""Conditions of every kind, groups that people save, questions, notes, and find."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import polars as pl
import pytest
import sqlalchemy as sa
from tests.answers.sources import year_8
from tests.support import Place

from bridge_chart.access.accounts import actor_named
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.beside.find import find
from bridge_chart.answers.beside.groups import list_groups, retire_group, save_group
from bridge_chart.answers.beside.saved import (
    add_note,
    list_questions,
    notes_on,
    remove_note,
    retire_question,
    save_question,
)
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

MATHS: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics",
                         "sitting": "spring 2026"}  # fmt: skip
EIGHTH: dict[str, Any] = {"field": "year_level", "in": [8]}
GIRLS: dict[str, Any] = {"characteristic": "Sex", "in": ["F"]}


@pytest.fixture(scope="module")
def students(demo: Place) -> pl.DataFrame:
    return year_8(Path(demo.settings.home) / "demo")


@pytest.fixture(scope="module")
def lead(demo: Place) -> Actor:
    return actor_named(demo.engine, "ailsa")


@pytest.fixture(scope="module")
def school_lead(demo: Place) -> Actor:
    return actor_named(demo.engine, "rowan")


def counted(demo: Place, *conditions: dict[str, Any]) -> int:
    return demo.ask({"who": {"all": list(conditions)}, "what": [MATHS]}).coverage[0].population


def test_and_or_not_are_sets(demo: Place, students: pl.DataFrame) -> None:
    girl = pl.col("Sex") == "F"
    meals = pl.col("Meal support") == "yes"
    support = {"characteristic": "Meal support", "in": ["yes"]}
    assert counted(demo, EIGHTH, {"any": [GIRLS, support]}) == students.filter(girl | meals).height
    both = {"all": [GIRLS, support]}
    assert counted(demo, EIGHTH, both) == students.filter(girl & meals).height
    assert counted(demo, EIGHTH, {"not": both}) == students.filter(~(girl & meals)).height


def test_ranges_levels_and_boundaries(demo: Place, students: pl.DataFrame) -> None:
    score, level = pl.col("Mathematics 2026"), pl.col("Mathematics 2026 level")
    between = {"measure": MATHS, "from": 320, "to": 344}
    assert counted(demo, EIGHTH, between) == students.filter(score.is_between(320, 344)).height
    named = {"measure": MATHS, "level": ["Strong", "Secure"]}
    assert counted(demo, EIGHTH, named) == students.filter(level.is_in(["Strong", "Secure"])).height
    # Secure begins at 320 in year 8; three below it is 317 to 319.
    near = {"measure": MATHS, "boundary": "Secure", "within": 3, "side": "below"}
    assert counted(demo, EIGHTH, near) == students.filter(score.is_between(317, 319)).height
    above = {**near, "side": "above"}
    assert counted(demo, EIGHTH, above) == students.filter(score.is_between(320, 323)).height
    around = {**near, "side": "both"}
    assert counted(demo, EIGHTH, around) == students.filter(score.is_between(317, 323)).height


def test_bands_are_thirds_of_the_year_level(demo: Place, students: pl.DataFrame) -> None:
    before = {**MATHS, "sitting": "spring 2025"}
    sizes = [
        counted(demo, EIGHTH, {"band": before, "in": [name]}) for name in ("low", "middle", "high")
    ]
    known = students["Mathematics 2025"].drop_nulls().len()
    assert sum(sizes) == known
    assert max(sizes) - min(sizes) < 0.1 * known
    assert counted(demo, EIGHTH, {"band": before, "in": [None]}) == students.height - known


def test_a_form_keeps_those_who_sat_it(demo: Place) -> None:
    check = {"assessment": "Harbour check", "sitting": "winter 2026"}
    both = [
        demo.ask({"what": [{**check, "form": form}]}).coverage[0].counted for form in ("A", "B")
    ]
    whole = demo.ask({"what": [check]})
    assert sum(both) == whole.coverage[0].counted
    mixed = demo.ask({"what": [{**check, "score": "raw"}]})
    assert "forms_mixed" in [w.code for w in mixed.warnings]
    assert "forms_mixed" not in [w.code for w in whole.warnings]


@pytest.mark.parametrize(
    ("condition", "says"),
    [
        ({"measure": MATHS}, "must have from, to"),
        ({"measure": MATHS, "boundary": "Secure"}, "within"),
        ({"measure": MATHS, "boundary": "Nowhere", "within": 3}, "no boundary"),
        ({"measure": MATHS, "level": ["Sublime"]}, "no level"),
        ({"set": 999_999}, "no group"),
        ({"field": "student", "in": [999_999]}, "no student"),
        ({"field": "student", "in": ["Zeno Thole"]}, "no student"),
    ],
)
def test_a_condition_that_cannot_be_says_why(
    demo: Place, condition: dict[str, Any], says: str
) -> None:
    with pytest.raises((InvalidQuestion, NotFound), match=says):
        counted(demo, condition)


def test_a_rule_stays_live_and_a_list_stays_as_it_was(demo: Place, lead: Actor) -> None:
    asked = read_question({"who": {"all": [EIGHTH, GIRLS]}, "what": [MATHS]})
    rule = save_group(demo.engine, demo.settings, lead, "Girls of year 8", "rule", asked)
    listed = save_group(demo.engine, demo.settings, lead, "Girls by name", "list", asked)
    assert (rule.kind, rule.students, listed.kind) == ("rule", None, "list")
    both = counted_as(demo, lead, {"set": rule.id})
    assert both == counted_as(demo, lead, {"set": "girls BY name"}) == listed.students
    split = {"populations": [
        {"label": "girls", "who": {"all": [{"set": listed.id}]}},
        {"label": "others", "who": {"all": [{"not": {"set": rule.id}}]}}]}  # fmt: skip
    answer = demo.ask({"who": {"all": [EIGHTH]}, "what": [MATHS], "split": [split]}, lead)
    found = {row.label: row.n + row.missing for row in answer.body.rows}
    assert found["girls"] == both
    assert found["girls"] + found["others"] == counted(demo, EIGHTH)
    with pytest.raises(InvalidQuestion, match="already"):
        save_group(demo.engine, demo.settings, lead, "girls of Year 8", "rule", asked)
    retire_group(demo.engine, lead, listed.id)
    assert listed.id not in [g.id for g in list_groups(demo.engine, lead)]
    assert counted_as(demo, lead, {"set": listed.id}) == both  # old questions still hold
    with pytest.raises(NotFound):
        retire_group(demo.engine, actor_named(demo.engine, "rowan"), rule.id)


def counted_as(demo: Place, actor: Actor, condition: dict[str, Any]) -> int:
    question = {"who": {"all": [condition]}, "what": [MATHS]}
    return demo.ask(question, actor).coverage[0].population


def test_a_shared_group_shows_each_their_own(demo: Place, lead: Actor, school_lead: Actor) -> None:
    asked = read_question({"who": {"all": [EIGHTH]}, "what": [MATHS]})
    private = save_group(demo.engine, demo.settings, lead, "Mine alone", "list", asked)
    shared = save_group(demo.engine, demo.settings, lead, "All eighth", "list", asked, shared=True)
    seen = {g.id for g in list_groups(demo.engine, school_lead)}
    assert shared.id in seen
    assert private.id not in seen
    with pytest.raises(NotFound):
        counted_as(demo, school_lead, {"set": private.id})
    own = counted_as(demo, school_lead, {"set": shared.id})
    assert own == counted(demo, EIGHTH, {"field": "school", "in": ["Fernhollow"]})


def test_questions_are_saved_shared_and_taken_away(
    demo: Place, lead: Actor, school_lead: Actor
) -> None:
    asked = read_question({"who": {"all": [EIGHTH]}, "what": [MATHS], "show": "levels"})
    saved = save_question(demo.engine, demo.settings, lead, " Year 8  levels ", asked, shared=True)
    assert saved.name == "Year 8 levels"
    theirs = next(
        s for s in list_questions(demo.engine, demo.settings, school_lead) if s.id == saved.id
    )
    assert (theirs.own, theirs.by, theirs.question) == (False, "Ailsa Marlow", asked)
    with pytest.raises(NotFound):
        retire_question(demo.engine, school_lead, saved.id)
    retire_question(demo.engine, lead, saved.id)
    assert saved.id not in [s.id for s in list_questions(demo.engine, demo.settings, lead)]
    wrong = read_question({"what": [{"assessment": "Nothing"}]})
    with pytest.raises(NotFound, match="no test"):
        save_question(demo.engine, demo.settings, lead, "wrong", wrong)


def test_notes_hang_on_the_question_however_it_is_drawn(demo: Place, lead: Actor) -> None:
    plain = {"who": {"all": [EIGHTH]}, "what": [MATHS], "split": [{"field": "school"}]}
    note = add_note(demo.engine, demo.settings, lead, read_question(plain), "Ask Fernhollow <b>")
    drawn = read_question({**plain, "show": "table", "sort": [{"by": "n"}]})
    found = notes_on(demo.engine, demo.settings, lead, drawn)
    assert [(n.text, n.by, n.own) for n in found] == [("Ask Fernhollow <b>", "Ailsa Marlow", True)]
    other = read_question({**plain, "split": []})
    assert notes_on(demo.engine, demo.settings, lead, other) == []
    remove_note(demo.engine, lead, note.id)
    assert notes_on(demo.engine, demo.settings, lead, drawn) == []
    with pytest.raises(InvalidQuestion, match="1 to"):
        add_note(demo.engine, demo.settings, lead, drawn, "  ")


def test_find_knows_students_classes_tests_in_scope_and_notes_it(
    demo: Place, lead: Actor, school_lead: Actor, students: pl.DataFrame
) -> None:
    own = students.filter(pl.col("School") == "Netherby").row(0, named=True)
    text = f"{own['Family name'][:4]} {own['Student number'][-4:]}"
    (found,) = [f for f in find(demo.engine, demo.settings, lead, text) if f.kind == "student"]
    assert own["Student number"] in found.detail
    assert own["Family name"] in found.label
    assert find(demo.engine, demo.settings, school_lead, text) == []
    classes = find(demo.engine, demo.settings, lead, "netherby 8b")
    assert ("class", "8B, Netherby") in [(f.kind, f.label) for f in classes]
    tests = find(demo.engine, demo.settings, lead, "reading 2026")
    assert [f.label for f in tests if f.kind == "test"] == ["Reading, spring 2026"]
    assert find(demo.engine, demo.settings, lead, "  ") == []
    noted = demo.scalar(
        f"SELECT count(*) FROM audit WHERE action = 'find_students' AND detail->>'text' = '{text}'"
    )
    assert noted == 1


def test_a_shared_group_that_rests_on_a_private_one_means_the_same_to_all(
    demo: Place, lead: Actor, school_lead: Actor
) -> None:
    """Its maker may not share it with a name that nobody else may use; one that was kept before
    that was refused answers for everybody, and never says the other's name."""
    asked = read_question({"who": {"all": [EIGHTH, GIRLS]}, "what": [MATHS]})
    inner = save_group(demo.engine, demo.settings, lead, "Private girls", "rule", asked)
    using = read_question({"who": {"all": [{"set": inner.id}]}, "what": [MATHS]})
    with pytest.raises(InvalidQuestion, match="your own group “Private girls”"):
        save_group(demo.engine, demo.settings, lead, "Shared girls", "rule", using, shared=True)
    outer = save_group(demo.engine, demo.settings, lead, "Shared girls", "rule", using)
    with demo.engine.begin() as connection:
        connection.execute(
            sa.text("UPDATE student_set SET shared = true WHERE id = :id"), {"id": outer.id}
        )
    own = {"field": "school", "in": ["Fernhollow"]}
    seen = demo.ask({"who": {"all": [{"set": outer.id}]}, "what": [MATHS]}, school_lead)
    assert seen.coverage[0].population == counted(demo, EIGHTH, GIRLS, own) > 0
    assert "Private" not in seen.model_dump_json()
    with pytest.raises(NotFound, match="no group"):
        counted_as(demo, school_lead, {"set": inner.id})
    listed = save_group(demo.engine, demo.settings, lead, "Girls, a list", "list", using,
                        shared=True)  # fmt: skip
    assert listed.students == counted(demo, EIGHTH, GIRLS)


def test_a_rule_is_as_of_its_own_date_wherever_it_is_used(demo: Place, lead: Actor) -> None:
    """Who is in Fernhollow today stays who is in Fernhollow today, asked as of last spring."""
    today = {"as_of": "today", "all": [{"field": "school", "in": ["Fernhollow"]}]}
    saved = save_group(demo.engine, demo.settings, lead, "Fernhollow now", "rule",
                       read_question({"who": today, "what": [MATHS]}))  # fmt: skip
    spring = {**MATHS, "sitting": "spring 2025"}
    then = demo.ask({"who": {"all": [{"set": saved.id}]}, "what": [spring]}, lead)
    plain = {"field": "school", "in": ["Fernhollow"], "as_of": "today"}
    assert then.coverage == demo.ask({"who": {"all": [plain]}, "what": [spring]}, lead).coverage
    other = {"field": "school", "in": ["Fernhollow"]}
    assert then.coverage != demo.ask({"who": {"all": [other]}, "what": [spring]}, lead).coverage


def test_who_is_counted_in_every_measure_is_no_rule(demo: Place, lead: Actor) -> None:
    both = {"what": [MATHS, {**MATHS, "subject": "Reading"}], "cohort": "matched", "open": {}}
    with pytest.raises(InvalidQuestion, match="no rule"):
        save_group(demo.engine, demo.settings, lead, "Both", "rule", read_question(both))
    listed = save_group(demo.engine, demo.settings, lead, "Both", "list", read_question(both))
    table = demo.ask({**both, "show": "table", "open": None})
    assert listed.students == table.coverage[0].counted

"""An attacker with nothing but what a role can ask, over hundreds of questions.

What every answer says is collected: each text, each number, each pair of n and mean. None of the
planted secrets may stand in it, and none may come out by taking one figure from another, or one's
own students from a whole.
"""

from __future__ import annotations

import itertools
import random
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from tests.attack.heard import NEAR, Heard, ask, foreign_ids
from tests.attack.planted import LEVELS, RARE, Planted, correct, planted, wrong_hands
from tests.effort import LONG
from tests.support import Place, forget_place, new_place

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.releases import make_release
from bridge_chart.access.since import FEWEST
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.beside.catalogue import catalogue
from bridge_chart.answers.beside.find import find
from bridge_chart.answers.beside.groups import list_groups, save_group
from bridge_chart.answers.beside.published_figures import (
    PublishedAsked,
    published_figures,
    published_place,
)
from bridge_chart.answers.beside.saved import add_note, list_questions, notes_on, save_question
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import NotAllowed
from bridge_chart.terms.people import Actor

QUIZ = {"assessment": "Quiz", "score": "scaled"}
AUTUMN = {**QUIZ, "sitting": "autumn"}
QUESTIONS = 6000 if LONG else 500


@pytest.fixture(scope="module", params=["school_lead", "teacher", "viewer"])
def secrets(cluster: Settings, request: pytest.FixtureRequest) -> Iterator[Planted]:
    place = new_place(cluster)
    made = planted(place, request.param)
    if made.role == "teacher":
        place.account("alder", "teacher", teachers=[("Alder", "Teacher of Alder 5")])
    elif made.role == "viewer":
        place.account("alder", "viewer")
    else:
        place.account("alder", "school_lead", "Alder")
    make_release(place.engine, OPERATOR, "Spring")
    _wrong(made)
    _beside(place)
    yield made
    forget_place(place)


def _wrong(made: Planted) -> None:
    wrong_hands(made)
    place = made.place
    batch = place.scalar("SELECT max(id) FROM batch")
    assert isinstance(batch, int)
    change_standing(place.engine, place.settings, OPERATOR, batch, "undone")


def _beside(place: Place) -> None:
    """What the data lead keeps beside the answers: groups, questions, notes."""
    birch = {"field": "school", "in": ["Birch"]}
    rare = {"characteristic": "Language", "in": [RARE]}
    for name, condition in (("Theirs", birch), ("A few", rare), ("Not Birch", {"not": birch})):
        asked = read_question({"what": [QUIZ], "who": {"all": [condition]}})
        save_group(place.engine, place.settings, OPERATOR, name, "rule", asked, shared=True)
        save_group(place.engine, place.settings, OPERATOR, f"{name}, listed", "list", asked,
                   shared=True)  # fmt: skip
        save_question(place.engine, place.settings, OPERATOR, f"Saved {name}", asked, shared=True)
    plain = read_question({"what": [QUIZ]})
    add_note(place.engine, place.settings, OPERATOR, plain, "the board must not hear of this yet")


@pytest.fixture(scope="module")
def lead(secrets: Planted) -> Actor:
    return actor_named(secrets.place.engine, "alder")


def random_questions(secrets: Planted) -> Iterator[dict[str, Any]]:
    draw = random.Random(5)
    ids = foreign_ids(secrets)
    own = [ids[s.number] for s in secrets.students if secrets.mine(s)]
    theirs = [ids[s.number] for s in secrets.foreign]
    newest = secrets.place.snapshot.version
    day, before = {"date": "2026-04-20"}, {"date": "2025-10-06"}
    conditions: list[Any] = [
        {"field": "year_level", "in": [5]},
        {"field": "year_level", "in": [6]},
        {"field": "year_level", "in": [5], "as_of": day},
        {"characteristic": "Sex", "in": ["F"]},
        {"characteristic": "Language", "in": ["English"]},
        {"characteristic": "Language", "in": [RARE]},
        {"characteristic": "Language", "in": [None]},
        {"not": {"characteristic": "Language", "in": ["English", "Island"]}},
        {"field": "school", "in": ["Alder"], "as_of": {"date": "2025-09-02"}},
        {"not": {"field": "school", "in": ["Alder"], "as_of": "today"}},
        {"field": "school", "in": ["Birch"]},
        {"field": "school", "in": [None], "as_of": "today"},
        {"field": "class", "in": [3]},
        {"field": "student", "in": [*own, draw.choice(theirs)]},
        {"field": "student", "in": [draw.choice(theirs)]},
        {"field": "student", "in": own[:10]},
        {"measure": QUIZ, "level": ["Secure"]},
        {"missing": "no_row", "measure": AUTUMN},
        {"band": AUTUMN, "in": ["high"]},
        {"set": "Theirs"}, {"set": "A few"}, {"set": "Not Birch"}, {"set": "Theirs, listed"},
        *({"measure": QUIZ, "from": float(x)} for x in range(330, 430, 7)),
        *({"measure": AUTUMN, "below": float(x)} for x in range(300, 400, 9)),
    ]  # fmt: skip
    whats: list[Any] = [
        [QUIZ], [AUTUMN], [{**QUIZ, "sitting": "each"}],
        [{"derive": "span", "of": QUIZ, "against": {"prior": {}}}],
        [{"derive": "gain", "of": QUIZ, "against": {"earlier": {}}}],
        [{"measure": QUIZ, "statistic": "share", "cut": 377.5}],
        [{"measure": QUIZ, "statistic": "share", "meets": [{"measure": QUIZ, "above": 381.0}]}],
        [{"assessment": "Quiz", "score": "level"}],
    ]  # fmt: skip
    splits: list[Any] = [
        [], [{"field": "year_level"}], [{"field": "class"}], [{"field": "teacher"}],
        [{"field": "school"}], [{"field": "school", "as_of": "today"}],
        [{"characteristic": "Sex"}], [{"characteristic": "Language"}], [{"band": "prior"}],
        [{"level_of": {"assessment": "Quiz"}}],
        [{"field": "year_level"}, {"characteristic": "Language"}],
    ]  # fmt: skip

    def group() -> Any:
        return {"group": {"who": {"all": draw.sample(conditions, draw.choice((0, 1, 1, 2)))}}}

    def yardstick() -> Any:
        fixed = [None, None, {"prior": {}}, {"prior": {"expect": "spline"}},
                 {"prior": {"expect": "equal_scores"}}, {"prior": {"model": "multilevel"}},
                 {"earlier": {}}]  # fmt: skip
        return draw.choice([*fixed, group(), group()])

    for _ in range(QUESTIONS):
        question: dict[str, Any] = {
            "what": draw.choice(whats),
            "who": {"all": draw.sample(conditions, draw.choice((0, 0, 1, 1, 2))),
                    "as_of": draw.choice(["sitting", "sitting", "today", day, before])},
            "split": draw.choice(splits),
            "against": yardstick(),
            "show": draw.choice(["spans", "spans", "table", "levels", "spread", "start_to_now",
                                 "over_time", "strip", "make_up", "students"]),
            "reference": draw.choice([["district"], ["district", "school", "nation"], []]),
            "version": draw.choice([None, None, *range(1, newest + 1)]),
            "cohort": draw.choice(["present", "present", "matched"]),
        }  # fmt: skip
        if draw.random() < 0.3:
            question["focus"] = [draw.choice(conditions)]
        if draw.random() < 0.15:
            question["open"] = {"students": [draw.choice(theirs)]}
        for unused in ("focus", "split", "against", "reference", "cohort"):
            if draw.random() < 0.25:
                question.pop(unused, None)
        yield question


BACK = {"assessment": "same", "subject": "same", "sitting": {"back": 1}}
SINCE = {"earlier": {"measure": BACK}}
LEVELLED = {"assessment": "Quiz", "score": "level"}


def progress_questions(secrets: Planted) -> Iterator[dict[str, Any]]:
    """How far they came, what it would take, what has become of others: each show of Progress and
    each figure that is worked out of a start, of small groups and of large ones."""
    draw = random.Random(8)
    ids = foreign_ids(secrets)
    everybody = list(ids.values())
    conditions: list[Any] = [
        {"field": "year_level", "in": [5]}, {"characteristic": "Sex", "in": ["F"]},
        {"characteristic": "Language", "in": [RARE]}, {"field": "school", "in": ["Birch"]},
        {"measure": LEVELLED, "level": ["Secure"]}, {"measure": AUTUMN, "below": 350.0},
        {"field": "student", "in": draw.sample(everybody, 3)},
    ]  # fmt: skip
    whats: list[Any] = [
        QUIZ, LEVELLED, {"derive": "pace", "of": QUIZ}, {"derive": "projected", "of": QUIZ},
        {"derive": "growth_percentile", "of": QUIZ},
        *({"derive": "status", "of": QUIZ, "against": against}
          for against in (SINCE, {"prior": {}}, {"nation": {}})),
        {"derive": "credit", "of": LEVELLED, "against": SINCE},
    ]  # fmt: skip
    against = [None, SINCE, {"prior": {}}, {"prior": {"covariates": ["Language"]}},
               {"prior": {"covariates": ["Sex"], "expect": "spline"}}, {"nation": {}}]  # fmt: skip
    for _ in range(QUESTIONS // 2):
        show = draw.choice(["movement", "growth", "standing", "pace", "chances", "trial", "levels",
                            "spread", "table", "students"])  # fmt: skip
        question: dict[str, Any] = {
            "show": show, "what": [draw.choice(whats if show in ("levels", "table", "students")
                                               else whats[:2])],
            "who": {"all": draw.sample(conditions, draw.choice((0, 0, 1, 2)))},
            "against": SINCE if show in ("movement", "growth", "pace") else draw.choice(against),
        }  # fmt: skip
        if show not in ("chances", "students"):
            question["split"] = draw.choice([
                [], [{"field": "class"}], [{"characteristic": "Language"}], [{"field": "school"}],
            ])  # fmt: skip
        if draw.random() < 0.3:
            moved = [{"student": draw.choice(everybody), "by": draw.choice((1, -1))}]
            question["plan"] = {"of": LEVELLED, "moves": moved}
        yield question


def cell_by_cell(place: Place, lead: Actor, out: Heard) -> None:
    """Every cell that may be published, held against everything."""
    for level, sex, language, against in itertools.product(
        (None, *LEVELS), (None, "F", "M"), (None, "English", "Island"),
        (None, {"prior": {}}, {"earlier": {}}, {"group": {"who": {}}}),
    ):  # fmt: skip
        conditions: list[Any] = [] if level is None else [{"field": "year_level", "in": [level]}]
        conditions += [] if sex is None else [{"characteristic": "Sex", "in": [sex]}]
        conditions += [] if language is None else [
            {"characteristic": "Language", "in": [language]}
        ]  # fmt: skip
        ask(place, lead, {"what": [QUIZ], "who": {"all": conditions}, "against": against}, out)


def lists(place: Place, lead: Actor, out: Heard) -> None:
    """Whoever was in the school on some day, with what they scored on any other."""
    for version in (None, *range(1, place.snapshot.version + 1)):
        for day in ("2025-09-02", "2025-10-06", "2026-04-20", "2026-05-11", "2026-05-30"):
            question = {"show": "students", "what": [{**QUIZ, "sitting": "each"}],
                        "who": {"as_of": {"date": day}}, "version": version}  # fmt: skip
            ask(place, lead, question, out)


def published(place: Place, lead: Actor, out: Heard) -> None:
    """Everything on the page of what is published, whoever looks at it."""
    engine, settings = place.engine, place.settings
    told = published_place(engine, settings, lead)
    out.take(told.model_dump(mode="json"))
    for test in told.tests:
        views = itertools.product(test.year_levels, (None, *(b.id for b in told.by)))
        for level, by in [(None, None), *views]:
            asked = PublishedAsked(test=test.key, year_level=level, by=by)
            found = published_figures(engine, settings, lead, asked)
            out.take(found.model_dump(mode="json"))
            out.cells |= {(row.n, row.mean) for row in found.rows if row.n and row.mean}
            out.published += 1
            for row in found.rows:
                # Nobody is told how many there are of a few, nor a share that says so.
                assert row.n is None or row.n >= FEWEST
                assert row.missing is None or row.missing >= FEWEST
                assert not row.shares or (row.n or 0) * (row.step or 0) >= FEWEST


def line(place: Place, lead: Actor, out: Heard) -> None:
    """What similar starters reach, as it can be read off at the newest version."""
    if lead.role == "viewer":
        return
    question = {"show": "students", "what": [QUIZ], "against": {"prior": {}},
                "page": {"size": 100}}  # fmt: skip
    answer = place.ask(question, lead)
    (told,) = [c.values for c in answer.body.columns if c.key == "expected"]
    out.lines[answer.resolved.version] = tuple(told)


@pytest.fixture(scope="module")
def heard(secrets: Planted, lead: Actor) -> Heard:
    """Before and after one score elsewhere is corrected and released again."""
    place, out = secrets.place, Heard()
    cell_by_cell(place, lead, out)
    published(place, lead, out)
    line(place, lead, out)
    correct(secrets, 40, 411.912345678)
    line(place, lead, out)
    make_release(place.engine, OPERATOR, "Summer")
    cell_by_cell(place, lead, out)
    published(place, lead, out)
    lists(place, lead, out)
    for question in [*random_questions(secrets), *progress_questions(secrets)]:
        ask(place, lead, question, out)
    if lead.role == "viewer":
        return out
    engine, settings = place.engine, place.settings
    out.take(catalogue(engine, settings, lead).model_dump(mode="json"))
    for text in (
        "Fam",
        "Birch",
        "Teacher",
        "B5",
        "Saved",
        "Theirs",
        "77",
        secrets.foreign[3].family,
    ):
        said = [one.model_dump(mode="json") for one in find(engine, settings, lead, text)]
        out.take(said)
    out.take([g.model_dump(mode="json") for g in list_groups(engine, lead)])
    out.take([s.model_dump(mode="json") for s in list_questions(engine, settings, lead)])
    plain = read_question({"what": [QUIZ]})
    out.take([n.model_dump(mode="json") for n in notes_on(engine, settings, lead, plain)])
    return out


def test_the_attack_is_one(lead: Actor, heard: Heard) -> None:
    """Enough was asked, answered and refused, and the attacker did get figures of the district."""
    assert heard.published > 20
    assert len(heard.cells) > 5
    if lead.role == "viewer":
        assert heard.answered == 0  # nothing but what is published
        return
    assert min(heard.answered, heard.refused) > 0.25 * QUESTIONS
    assert len(heard.pairs) > 50
    assert {160, 80} & {n for n, _ in heard.pairs}


def test_no_name_of_elsewhere_is_said(secrets: Planted, heard: Heard) -> None:
    said = "\n".join(heard.texts)
    asked_for = {"Birch"}  # the attacker wrote these words, and refusals repeat them
    told = [name for name in secrets.names() if name not in asked_for and name in said]
    assert told == []
    for text in heard.texts:
        assert (
            "Birch" not in text or "There is no" in text or "Saved" in text or "Not Birch" in text
        )


def test_no_secret_is_said(secrets: Planted, heard: Heard) -> None:
    said = np.array(sorted(heard.numbers))
    told = [
        name for name, secret in secrets.secrets().items()
        if np.abs(said - secret).min() < NEAR
    ]  # fmt: skip
    assert told == []


def test_no_secret_comes_out_by_subtraction(secrets: Planted, heard: Heard) -> None:
    """Two figures of which one holds one student or one school more, or one's own students."""
    hidden = secrets.secrets()
    names, values = list(hidden), np.array(list(hidden.values()))
    n, mean = np.array(sorted(heard.pairs)).T
    told = set()
    for at in range(len(n)):
        rest = n[at] - n
        use = rest > 0
        left = (n[at] * mean[at] - n[use] * mean[use]) / rest[use]
        hits = np.abs(left[:, None] - values[None, :]) < NEAR
        told |= {names[k] for k in np.flatnonzero(hits.any(axis=0))}
    assert told == set()


def test_no_secret_is_what_several_cells_leave_of_a_whole(secrets: Planted, heard: Heard) -> None:
    """The rare language is what the others leave of the year level."""
    hidden = secrets.secrets()
    values = np.array(list(hidden.values()))
    cells = sorted(heard.cells)
    assert len(cells) > 10
    n, total = np.array([(n, n * mean) for n, mean in cells]).T
    first, second = np.triu_indices(len(cells))
    for at in range(len(cells)):
        rest = n[at] - n[first] - n[second]
        use = rest > 0
        left = (total[at] - total[first][use] - total[second][use]) / rest[use]
        assert not (np.abs(left[:, None] - values[None, :]) < NEAR).any()


def test_two_releases_taken_from_each_other_tell_no_change(secrets: Planted, heard: Heard) -> None:
    number, new = next(iter(secrets.corrected.items()))
    old = next(s.scores[1] for s in secrets.students if s.number == number)
    n, mean = np.array(sorted(heard.cells)).T
    same = n[:, None] == n[None, :]
    change = (mean[:, None] - mean[None, :]) * n[:, None]
    assert not (np.abs(change[same] - (new - old)) < 1e-5).any()


def test_two_lines_taken_from_each_other_tell_no_change(secrets: Planted, heard: Heard) -> None:
    """The line before one result elsewhere is corrected is the line after it; the data lead's
    is not."""
    if secrets.role == "viewer":
        assert heard.lines == {}  # nobody of whom a line could be read off
        return
    before, after = heard.lines.values()
    assert before == after
    assert sum(x is not None for x in before) > 10
    question = {"what": [QUIZ], "against": {"prior": {}}, "who": {"all": [
        {"field": "year_level", "in": [5]}]}}  # fmt: skip
    slopes = [
        secrets.place.ask({**question, "version": version}).method.facts["year_levels"][0]["slope"]
        for version in heard.lines
    ]
    levels = {s.level for s in secrets.students if s.number in secrets.corrected}
    assert (slopes[0] != slopes[1]) == (5 in levels)


def test_the_wrong_hands_open_nothing_at_their_version(secrets: Planted, lead: Actor) -> None:
    """At the version whose roster said that Birch is Alder, Alder's lead sees Alder."""
    place = secrets.place
    version = place.scalar(
        "SELECT min(version_id) FROM batch_event JOIN batch ON batch.id = batch_id "
        "WHERE title LIKE '%wrong%' OR batch_id = (SELECT batch_id FROM batch_event "
        "WHERE event = 'undone')"
    )
    asked = {"what": [QUIZ], "show": "students", "page": {"size": 500}, "version": version}
    for as_of in ("sitting", "today"):
        if lead.role == "viewer":
            with pytest.raises(NotAllowed):
                place.ask({**asked, "who": {"as_of": as_of}}, lead)
            continue
        answer = place.ask({**asked, "who": {"as_of": as_of}}, lead)
        assert 0 < len(answer.body.student) <= 32

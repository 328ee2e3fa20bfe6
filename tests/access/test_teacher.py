"""A teacher sees own classes, today's and earlier ones as of then; of a class that is paired with
one's own its figures, and nobody."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from tests.support import Place, forget_place, new_place

from bridge_chart.access import pairings
from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.scoped import seen_by
from bridge_chart.answers.beside import attachments
from bridge_chart.answers.beside.catalogue import catalogue
from bridge_chart.answers.shows.items.body import ItemsBody
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import NotAllowed, NotFound
from bridge_chart.terms.people import Actor

QUIZ = {"assessment": "Quiz", "score": "raw"}
LIST = {"what": [QUIZ], "show": "students", "page": {"size": 500}}
LETTERS = {"what": [{"assessment": "Letters"}], "show": "items", "who": {"as_of": "sitting"},
           "split": [{"field": "class"}]}  # fmt: skip
EACH = 12
# Each of three schools has two classes; a J. Wren teaches in two of the schools.
CLASSES = {"A1": "J. Wren", "A2": "K. Teal", "B1": "J. Wren", "B2": "L. Rook",
           "C1": "M. Kite", "C2": "M. Kite"}  # fmt: skip
TEXTS = ("it is half", "it is half!", "It is half", "IT IS HALF")
NAMED = "my brother Tom said so"


def students(of: str, *, last_year: bool = False) -> list[int]:
    """The numbers of a class. Last year's first class of a school had the other's last student."""
    first = 100 * list(CLASSES).index(of)
    own = list(range(first, first + EACH))
    if not last_year:
        return own
    moved = {"1": 100 * (list(CLASSES).index(of[0] + "2")) + EACH - 1}.get(of[1])
    return [*own, moved] if moved is not None else own[:-1]


def wrote(n: int) -> str:
    """Of class A2 two wrote what holds a name."""
    if n // 100 != 1:
        return "as taught"
    return NAMED if n % 8 == 7 else TEXTS[n % 4]


def roll(*, last_year: bool) -> str:
    lines = ["Number,Given name,Family name,School,Year level,Class,Teacher"]
    for name, teacher in CLASSES.items():
        lines += [
            f"{n},Child,Fam{n}xq,{name[0]} School,8,{name},{teacher}"
            for n in students(name, last_year=last_year)
        ]
    return "\n".join(lines)


@pytest.fixture(scope="module")
def place(cluster: Settings) -> Iterator[Place]:
    made = new_place(cluster)
    made.bring("roster", roll(last_year=True), academic_year="2024-25", as_of="2024-09-01")
    made.bring("roster", roll(last_year=False), academic_year="2025-26", as_of="2025-09-01")
    everybody = [n for name in CLASSES for n in students(name)]
    for sitting, date in (("last May", "2025-05-10"), ("May", "2026-05-10")):
        lines = "".join(f"{n},Quiz,{n % 31}\n" for n in everybody)
        made.bring("results", f"Number,Test,Raw score\n{lines}", f"{sitting}.csv",
                   sitting=sitting, date=date)  # fmt: skip
    answered = [n for n in everybody if n != students("A2")[0]]
    lines = "".join(f"{n},{'ABCD'[n % 4]},{'AB'[n % 2]},{wrote(n)}\n" for n in answered)
    text = f"Number,Q1,Q2,Q1 explanation\nKey,B,B,\n{lines}"
    made.bring("results", text, "letters.csv", test="Letters", sitting="June", date="2026-06-10")
    made.account("wren", "teacher", teachers=[("A School", "J. Wren")])
    made.account("head", "school_lead", "A School")
    made.account("other", "school_lead", "B School")
    made.account("nobody", "teacher")
    yield made
    forget_place(made)


@pytest.fixture
def wren(place: Place) -> Actor:
    return actor_named(place.engine, "wren")


def numbers(place: Place, actor: Actor, question: dict[str, Any]) -> set[int]:
    answer = place.ask(question, actor)
    snapshot = place.snapshot
    at = np.searchsorted(snapshot.student_ids, answer.body.student)
    return {int(n) for n in np.asarray(snapshot.numbers)[at]}


def test_a_teacher_sees_the_own_classes_and_nobody_of_a_namesake(place: Place, wren: Actor) -> None:
    assert numbers(place, wren, LIST) == set(students("A1"))
    held = catalogue(place.engine, place.settings, wren)
    assert [one.label for one in held.schools] == ["A School"]
    assert {one.label.split(" · ")[0] for one in held.classes} == {"A1"}
    assert held.scope == "the classes of J. Wren"


def test_an_earlier_class_is_seen_as_of_then_and_no_later(place: Place, wren: Actor) -> None:
    then = {**LIST, "what": [{**QUIZ, "sitting": "last May"}], "who": {"as_of": "sitting"}}
    assert numbers(place, wren, then) == set(students("A1", last_year=True))
    moved = students("A1", last_year=True)[-1]
    newer = {**then, "columns": [{"measure": {**QUIZ, "sitting": "May"}}]}
    answer = place.ask(newer, wren)
    held = np.asarray(place.snapshot.numbers)
    ids = [int(place.snapshot.student_ids[n]) for n in np.flatnonzero(held == str(moved))]
    column = next(c for c in answer.body.columns if c.label.endswith("May"))
    told = dict(zip(answer.body.student, column.values, strict=True))
    assert told.pop(ids[0]) is None
    assert None not in told.values()


def test_the_figures_are_those_of_the_data_lead_for_the_same_rows(
    place: Place, wren: Actor
) -> None:
    asked = {"what": [QUIZ], "split": [{"field": "class"}], "against": {"prior": {}}}
    own = place.ask(asked, wren).body.rows
    everyone = place.ask(asked).body.rows
    (mine,) = own
    same = next(row for row in everyone if row.key == mine.key)
    told = ("n", "missing", "value", "low", "high", "span", "verdict")
    for name in told:
        assert getattr(mine, name) == getattr(same, name), name


def test_a_teacher_of_nothing_has_nobody(place: Place) -> None:
    assert place.ask(LIST, actor_named(place.engine, "nobody")).body.student == []


class TestPaired:
    """The class beside one's own, for a talk about one test."""

    @pytest.fixture
    def pairing(self, place: Place) -> Iterator[pairings.Pairing]:
        made = self.pair(place, OPERATOR, "A1", "A2")
        yield made
        left = {one.id for one in pairings.pairings(place.engine, OPERATOR, place.snapshot)}
        if made.id in left:
            pairings.end_pairing(place.engine, OPERATOR, place.snapshot, made.id)

    def pair(self, place: Place, actor: Actor, one: str, other: str) -> pairings.Pairing:
        snapshot = place.snapshot
        ids = {c.name: c.id for c in snapshot.classes if c.academic_year == "2025-26"}
        sitting = next(m.sitting.id for m in snapshot.measures if m.sitting.name == "June")
        seen = seen_by(place.engine, place.settings.snapshots, actor)
        return pairings.pair(place.engine, actor, seen, sitting, ids[one], ids[other])

    def asked(self, place: Place, actor: Actor | None = None, look: str = "Q1") -> ItemsBody:
        question = {**LETTERS, "options": {"look": look, "order": "paper"}}
        body = (place.ask(question, actor) if actor else place.ask(question)).body
        assert isinstance(body, ItemsBody)
        return body

    def test_nothing_of_another_class_before(self, place: Place, wren: Actor) -> None:
        found = self.asked(place, wren)
        assert found.paired == []
        assert [group.label.split(",")[0] for group in found.groups] == ["A1"]

    def test_shares_options_and_texts_of_three_or_more(
        self, place: Place, wren: Actor, pairing: pairings.Pairing
    ) -> None:
        found, whole = self.asked(place, wren), self.asked(place)
        (beside,) = found.paired
        assert (beside.label, beside.n, beside.missing) == ("A2, A School", EACH - 1, 1)
        at = next(n for n, g in enumerate(whole.groups) if g.label.startswith("A2"))
        for mine, theirs in zip(found.rows, whole.rows, strict=True):
            assert mine.paired[0].share == theirs.shares[at].share
        assert found.looked is not None
        assert whole.looked is not None
        (told,) = found.looked.paired
        chosen = {row.option: row.shares[at].n for row in whole.looked.options}
        assert {row.option: o.n for row, o in
                zip(found.looked.options, told.options, strict=True)} == chosen  # fmt: skip
        first = told.written.texts[0]
        assert (first.text.casefold().rstrip("!"), first.n) == ("it is half", 9)
        said = json.dumps(found.model_dump(mode="json"))
        for n in students("A2"):
            assert f"Fam{n}xq" not in said

    def test_a_text_of_fewer_than_three_is_theirs_alone(
        self, place: Place, wren: Actor, pairing: pairings.Pairing
    ) -> None:
        found = self.asked(place, wren)
        assert found.looked is not None
        (told,) = found.looked.paired
        texts = [one for one in told.written.texts if one.n < 3]
        assert texts == []
        assert told.written.others == 2
        assert told.written.n == sum(one.n for one in told.written.texts) + told.written.others

    def test_only_the_sitting_that_was_paired_and_only_while_it_is(
        self, place: Place, wren: Actor, pairing: pairings.Pairing
    ) -> None:
        assert numbers(place, wren, LIST) == set(students("A1"))
        pairings.end_pairing(place.engine, OPERATOR, place.snapshot, pairing.id)
        assert self.asked(place, wren).paired == []

    def test_who_may_pair_what(self, place: Place, wren: Actor) -> None:
        with pytest.raises(NotAllowed):
            self.pair(place, wren, "A1", "A2")
        head, other = (actor_named(place.engine, login) for login in ("head", "other"))
        with pytest.raises(NotFound):
            self.pair(place, head, "A1", "B1")
        made = self.pair(place, head, "A1", "A2")
        snapshot = seen_by(place.engine, place.settings.snapshots, other)
        assert pairings.pairings(place.engine, other, snapshot) == []
        with pytest.raises(NotFound):
            pairings.end_pairing(place.engine, other, snapshot, made.id)
        pairings.end_pairing(place.engine, OPERATOR, place.snapshot, made.id)


def test_with_names_hidden_a_text_that_few_wrote_is_not_shown(place: Place) -> None:
    """It may hold a name; the data lead reads it as long as names are shown."""
    question = {**LETTERS, "options": {"look": "Q1"}}
    at = next(n for n, g in enumerate(place.ask(question).body.groups) if g.label.startswith("A2"))
    for hidden in (False, True):
        found = place.ask(question, replace(OPERATOR, names_hidden=hidden)).body.looked.written[at]
        texts = {one.text: one.n for one in found.texts}
        assert texts.get(NAMED, 0) == (0 if hidden else 2)
        assert found.n == sum(texts.values()) + found.others


def test_a_paper_is_opened_by_whoever_sees_a_result_of_its_sitting(
    place: Place, wren: Actor
) -> None:
    """Of a test that another school alone sat, not even its paper is found."""
    lines = "".join(f"{n},Theirs,{n % 9}\n" for n in students("B1"))
    place.bring("results", f"Number,Test,Raw score\n{lines}", "theirs.csv", sitting="July",
                date="2026-07-01")  # fmt: skip
    whole = place.snapshot
    ids = {m.sitting.name: m.sitting.id for m in whole.measures}
    for sitting, opened in (("July", False), ("June", True)):
        made = attachments.attach(place.engine, OPERATOR, whole, ids[sitting], "paper", "",
                                  "paper.pdf", b"%PDF-1.4 x")  # fmt: skip
        seen = seen_by(place.engine, place.settings.snapshots, wren)
        if opened:
            assert attachments.opened(place.engine, wren, seen, made.id)[0] == "paper.pdf"
            continue
        with pytest.raises(NotFound):
            attachments.opened(place.engine, wren, seen, made.id)
        with pytest.raises(NotFound):
            attachments.attachments(place.engine, seen, ids[sitting])


class TestBesideTheDistrict:
    """Without a yardstick, own rows stand beside everybody else who sat the test."""

    def test_it_is_the_data_leads_figure(self, place: Place, wren: Actor) -> None:
        found = place.ask({**LETTERS, "options": {"order": "paper"}}, wren).body
        group = {"group": {"who": {"all": [{"field": "year_level", "in": [8]}]}}}
        whole = place.ask({**LETTERS, "options": {"order": "paper"}, "against": group}).body
        assert found.against == "the rest of the district"
        at = next(n for n, g in enumerate(whole.groups) if g.label.startswith("A1"))
        for mine, theirs in zip(found.rows, whole.rows, strict=True):
            for name in ("rest", "rest_n", "span", "low", "high", "p"):
                assert getattr(mine.beside[0], name) == getattr(theirs.beside[at], name), name

    def test_the_sentence_says_so(self, place: Place, wren: Actor) -> None:
        answer = place.ask(LETTERS, wren)
        assert answer.slots.against == "the rest of the district"
        assert place.ask(LETTERS).slots.against == "nothing"

    def test_what_few_others_reached_is_nobodys_to_see(self, place: Place, wren: Actor) -> None:
        """Of Q2 own students and four others have a mark: its rest would be those four."""
        reached = {*students("A1"), *students("A2")[:4]}
        everybody = [n for name in CLASSES for n in students(name)]
        lines = "".join(f"{n},1,{n % 2 if n in reached else ''}\n" for n in everybody)
        place.bring("results", f"Number,Q1,Q2\n{lines}", "half.csv", test="Half", sitting="June",
                    date="2026-06-12")  # fmt: skip
        snapshot = place.snapshot
        ids = {c.name: c.id for c in snapshot.classes if c.academic_year == "2025-26"}
        sitting = next(m.sitting.id for m in snapshot.measures if m.assessment.name == "Half")
        made = pairings.pair(place.engine, OPERATOR, snapshot, sitting, ids["A1"], ids["A2"])
        asked = {**LETTERS, "what": [{"assessment": "Half"}], "options": {"order": "paper"}}
        first, second = place.ask(asked, wren).body.rows
        pairings.end_pairing(place.engine, OPERATOR, place.snapshot, made.id)
        assert first.beside[0].rest == 1
        assert first.paired[0].share == 1
        assert second.beside[0].rest is None
        assert second.beside[0].span is None
        assert (second.paired[0].n, second.paired[0].share) == (4, None)

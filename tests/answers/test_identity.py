"""A name means one thing: identities of quantities, and answers whatever was asked before."""

from __future__ import annotations

import contextlib
import itertools
import json
import random
from typing import Any

import numpy as np
import pytest
from tests.answers.test_marks import CASES
from tests.answers.witnesses import CASES as WITNESSES
from tests.cli.warm import command
from tests.support import Place

from bridge_chart.answers.asking.ask import forget_answers
from bridge_chart.answers.asking.binder import Binder
from bridge_chart.answers.bound.split import UNKNOWN, wire
from bridge_chart.answers.kept.kept import forget_kept, kept_for
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import BridgeError, NotFound

CHECK: dict[str, Any] = {"assessment": "Harbour check", "sitting": "winter 2026"}
PAPER = "Student,Q1,Q2,Q3,Q4\nMaximum marks,2,2,4,4\n" + "".join(
    f"{n:03d},{n % 3},{n % 2},{n % 5},{n % 4}\n" for n in range(40)
)
TAGS = """Test,Question,Maximum,Strand,Topic
Quiz,Q1,2,Number,Fractions
Quiz,Q2,2,Number,Number
Quiz,Q3,4,Fractions,Number
Quiz,Q4,4,Shape,Angles
"""


def mean(place: Place, **measure: Any) -> float:
    (row,) = place.ask({"what": [{**CHECK, **measure}]}).body.rows
    assert row.mean is not None
    return float(row.mean)


def test_a_strand_in_percent_and_in_marks_are_two_figures(demo: Place) -> None:
    """Whichever is asked first: the one is out of a hundred, the other out of its marks."""
    forget_kept()
    forget_answers()
    percent, marks = mean(demo, part="Number"), mean(demo, part="Number", score="raw")
    forget_kept()
    forget_answers()
    assert mean(demo, part="Number", score="raw") == marks
    assert mean(demo, part="Number") == percent
    assert 5 * marks < percent < 100
    both = demo.ask({"show": "table", "what": [
        {**CHECK, "part": "Number"}, {**CHECK, "part": "Number", "score": "raw"}]})  # fmt: skip
    assert sorted(row.mean for row in both.body.rows) == sorted([percent, marks])
    assert len({row.label for row in both.body.rows}) == 2
    assert len(both.measures) == 2


@pytest.fixture
def quiz(place: Place) -> Place:
    place.bring("roster", "number,school,year\n" + "".join(
        f"{n:03d},Tarn,8\n" for n in range(40)), academic_year="2025-26")  # fmt: skip
    place.bring("results", PAPER, name="Quiz.csv", test="Quiz", sitting="May", date="2026-05-01")
    place.bring("questions", TAGS, name="tags.csv")
    return place


def test_a_topic_called_like_a_strand_has_its_own_figures(quiz: Place) -> None:
    def marks(kind: str, name: str) -> float:
        part = {"kind": kind, "is": name}
        answer = quiz.ask({"what": [{"assessment": "Quiz", "score": "raw", "part": part}]})
        return float(answer.body.rows[0].mean)

    n = np.arange(40)
    expected = {
        ("strand", "Number"): n % 3 + n % 2, ("topic", "Number"): n % 2 + n % 5,
        ("strand", "Fractions"): n % 5, ("topic", "Fractions"): n % 3,
    }  # fmt: skip
    for order in itertools.islice(itertools.permutations(expected), 6):
        forget_kept()
        forget_answers()
        for kind, name in order:
            assert marks(kind, name) == pytest.approx(expected[kind, name].mean())
    tagged = {"kind": "question", "tagged": ["Fractions"]}
    answer = quiz.ask({"what": [{"assessment": "Quiz", "score": "raw", "part": tagged}]})
    assert answer.body.rows[0].mean == pytest.approx((n % 3 + n % 5).mean())


def every_measure(place: Place) -> list[dict[str, Any]]:
    """Everything that can be asked of the demo, in every score, part, form and working."""
    out: list[dict[str, Any]] = []
    for m in place.snapshot.measures:
        plain = {"assessment": m.assessment.id, "subject": m.subject.id if m.subject else None,
                 "sitting": m.sitting.id, "role": m.role, "kind": m.kind or None}  # fmt: skip
        out += [{**plain, "score": s} for s in ("auto", "raw", "percent", "scaled", "level")]
        out += [{**plain, "grain": "half"}, {**plain, "form": "A"}]
        for kind, score in itertools.product(("strand", "type", "question"), ("raw", "percent")):
            part = {"kind": kind, "is": "each"}
            out += [{**plain, "score": score, "part": part},
                    {**plain, "score": score, "part": part, "form": "B"}]  # fmt: skip
        for against in ({"prior": {}}, {"prior": {"expect": "cubic"}}, {"nation": {}},
                        {"target": {"kind": "floor"}}):  # fmt: skip
            out.append({"derive": "span", "of": plain, "against": against})
        out.append({"derive": "percentile", "of": plain})
        out += [{"measure": plain, "statistic": "share", "cut": cut}
                for cut in (None, "Secure", "Strong", 300.5)]  # fmt: skip
        condition = {"measure": plain, "from": 10}
        out.append({"measure": plain, "statistic": "share", "meets": [condition]})
    return out


def test_different_measures_never_share_an_identity(demo: Place) -> None:
    binder = Binder(demo.snapshot)
    found: dict[Any, tuple[bool, str]] = {}
    figures: dict[Any, np.ndarray] = {}
    for given in every_measure(demo):
        what = q.Question.model_validate({"what": [given]}).what[0]
        for steps in (False, True):
            try:
                quantities = binder.measures.quantities(what, steps=steps)
            except BridgeError:
                continue
            for quantity in quantities:
                # A share by level is a line in Levels, and a figure elsewhere.
                asked = steps, quantity.ask.model_dump_json(by_alias=True)
                assert found.setdefault((steps, quantity.id), asked) == asked
                # An identity and what it asks for say the same: asked again, it is itself.
                again = binder.measures.quantity(quantity.ask, steps=bool(quantity.steps))
                assert again.id == quantity.id
                with contextlib.suppress(NotFound):  # no national table for this sitting
                    figures[quantity.id] = figures_of_students(demo.snapshot, quantity)
    assert len(set(found.values())) == len(found) > 150
    assert len(figures) > 150


def fingerprints(place: Place, questions: list[dict[str, Any]]) -> list[str]:
    out = []
    for question in questions:
        try:
            out.append(place.ask(question).model_dump_json(by_alias=True))
        except BridgeError as error:
            out.append(str(error))
    return out


def test_an_answer_is_the_same_whatever_was_asked_before(demo: Place, long: bool) -> None:
    """A shuffled hundred, each alone with nothing kept, then all with everything kept."""
    pool = [*CASES, *(case.question(value) for case in WITNESSES if case.where == "demo"
                      for value, _ in case.values)]  # fmt: skip
    rng = random.Random(7)
    rng.shuffle(pool)
    questions = pool if long else pool[:100]
    cold = []
    for question in questions:
        forget_kept()
        forget_answers()
        cold += fingerprints(demo, [question])
    for _ in range(2):
        order = list(range(len(questions)))
        rng.shuffle(order)
        forget_answers()
        warm = fingerprints(demo, [questions[n] for n in order])
        assert [cold[n] for n in order] == warm
    for n in range(0, len(questions), 1 if long else 40):
        assert alone(demo, questions[n]) == cold[n]


def alone(place: Place, question: dict[str, Any]) -> str:
    """The same from a process that has answered nothing before."""
    text = json.dumps(question)
    done = command(place.settings.home, "ask", "-", "--format", "json", text=text)
    if done.returncode:
        # What could be asked instead, and who could be meant, stands on lines of its own.
        return done.stderr.removeprefix("bridge: ").splitlines()[0]
    return done.stdout.strip()


def test_what_is_kept_cannot_be_changed(demo: Place) -> None:
    made = kept_for(demo.snapshot, ("a test's own", 1), lambda: (np.zeros(3), [np.ones(2)]))
    with pytest.raises(ValueError, match="read-only"):
        made[0][0] = 1
    with pytest.raises(ValueError, match="read-only"):
        made[1][0][0] = 2


def test_different_keys_of_rows_are_written_differently() -> None:
    kinds = ["school", "class", "option", "year", "teacher", "band", "level", "group"]
    single = [(kind, n) for kind in kinds for n in (0, 1, 11, 111)] + [UNKNOWN, ("all", 0)]
    pairs = [*([one] for one in single), *(list(p) for p in itertools.product(single, repeat=2))]
    assert len({wire(pair) for pair in pairs}) == len(pairs)

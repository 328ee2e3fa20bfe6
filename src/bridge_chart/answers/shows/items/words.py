"""What a test says: strands first, for one question says little."""

from __future__ import annotations

from collections.abc import Sequence

from bridge_chart.answers.shows.items.body import Item, ItemsBody
from bridge_chart.answers.shows.items.quality import AGAINST
from bridge_chart.answers.words.warnings import FEW_QUESTIONS
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.wording import count, listed, number

NAMED = 4


def readings_of(body: ItemsBody, strands: Sequence[Item]) -> list[Reading]:
    """Short sentences of the first group beside its rest."""
    if not any(group.n for group in body.groups):
        return [Reading(kind="list", rows=[], text="Nobody sat it, so nothing can be said.")]
    said = _doubts(body)
    if body.groups[0].n == 1:
        said += _of_one(body, strands or body.rows)
    else:
        said += _of_strands(body, strands) if strands else []
        said += _apart(body) if body.against else []
    said += _uneven(body)
    said += _again(body) + _unmarked(body) + _exactness(body)
    return said


def _of_one(body: ItemsBody, parts: Sequence[Item]) -> list[Reading]:
    """One student: marks won of those to win, what the others won of the same, where most went."""
    rows = [row for row in body.rows if row.shares[0].share is not None]
    most = sum(row.maximum for row in rows)
    marks = [
        (group.label, sum(row.maximum * (row.shares[at].share or 0.0) for row in rows))
        for at, group in enumerate(body.groups)
    ]
    rest = [row.beside[0].rest for row in rows if row.beside]
    if body.against and len(rest) == len(rows) and None not in rest:
        won = sum(row.maximum * (one or 0.0) for row, one in zip(rows, rest, strict=True))
        marks.append((body.against, won))
    others = listed([f"{label} {number(won)}" for label, won in marks[1:]])
    text = f"{marks[0][0]} won {number(marks[0][1], 0)} of {number(most, 0)} marks"
    said = [
        Reading(kind="size", rows=[], text=f"{text}{f'; on average {others}' if others else ''}.")
    ]
    lost = sorted(
        (one for one in parts if one.beside and (one.beside[0].span or 0.0) < 0),
        key=lambda one: (one.beside[0].span or 0.0) * one.maximum,
    )
    if lost:
        told = listed([
            f"{one.label} ({number(one.maximum * (one.shares[0].share or 0.0), 0)} of "
            f"{number(one.maximum, 0)})" for one in lost[:NAMED]
        ])  # fmt: skip
        said.append(Reading(kind="list", rows=[], text=f"Most was lost against them in {told}."))
    return said


def _of_strands(body: ItemsBody, strands: Sequence[Item]) -> list[Reading]:
    marked = [one for one in strands if one.beside[0].verdict in ("behind", "ahead")]
    marked.sort(key=lambda one: one.beside[0].span or 0.0)
    others = len(strands) - len(marked)
    if not marked:
        return [Reading(kind="list", rows=[], text=(
            f"Strands first: of {body.groups[0].label} none of the {len(strands)} can be told "
            f"apart from {body.against}."
        ))]  # fmt: skip
    rest = f"; the other {count(others, 'strand')} cannot be told apart" if others else ""
    found = []
    for at, one in enumerate(marked):
        side = "behind" if one.beside[0].verdict == "behind" else "ahead of"
        text = (
            f"{body.groups[0].label} is {_points(one)} {side} {body.against} in {one.label} "
            f"({count(one.questions, 'question')})"
        )
        first, last = "" if at else "Strands first: ", rest if one is marked[-1] else ""
        found.append(Reading(kind=one.beside[0].verdict, rows=[], text=f"{first}{text}{last}."))
    return found


def _points(one: Item) -> str:
    return count(round(100 * abs(one.beside[0].span or 0.0)), "point")


def _apart(body: ItemsBody) -> list[Reading]:
    word = "question" if body.by == "question" else body.by
    rows, whom = body.rows, body.against
    said = []
    for kind, words in (("behind", f"behind {whom}"), ("ahead", f"ahead of {whom}")):
        mine = [row for row in rows if row.beside[0].verdict == kind]
        if mine:
            said.append(
                Reading(
                    kind="behind" if kind == "behind" else "ahead", rows=[row.key for row in mine],
                    text=f"On {len(mine)} of {count(len(rows), word)} {body.groups[0].label} is "
                    f"{words} by more than chance: {listed([row.label for row in mine], NAMED)}.",
                )
            )  # fmt: skip
    if said:
        said.append(Reading(kind="chance", rows=[], text=(
            "About one in twenty of such marks may be chance."
        )))  # fmt: skip
    if body.least is not None and len(rows) > sum(len(one.rows) for one in said):
        first = body.groups[0]
        said.append(Reading(kind="unclear", rows=[], text=(
            f"With {count(first.n, 'student')} the others cannot be told: a difference "
            f"must be near {count(round(100 * body.least), 'point')}."
        )))  # fmt: skip
    return said


def _doubts(body: ItemsBody) -> list[Reading]:
    """A key that may be wrong comes before all else: every figure of its question hangs on it."""
    return [
        Reading(kind="trust", rows=[row.key], text=f"{row.label}: {row.again}")
        for row in body.rows
        if row.again not in (None, AGAINST)
    ]


def _again(body: ItemsBody) -> list[Reading]:
    found = [row for row in body.rows if row.again == AGAINST]
    if not found:
        return []
    names = listed([row.label for row in found], NAMED)
    return [
        Reading(
            kind="trust", rows=[row.key for row in found],
            text=f"Read {names} and {'its' if len(found) == 1 else 'their'} key again: who does "
            "well on the rest of the test does worse there.",
        )
    ]  # fmt: skip


def _uneven(body: ItemsBody) -> list[Reading]:
    return [
        Reading(kind="list", rows=[], text=(
            f"{count(one.n, 'student')} did far better on {one.better} than on {one.worse}: beyond "
            "error, and beyond what everybody finds harder."
        ))
        for one in body.uneven
    ]  # fmt: skip


def _unmarked(body: ItemsBody) -> list[Reading]:
    if not body.unmarked:
        return []
    names = listed(body.unmarked, NAMED)
    return [Reading(kind="trust", rows=[], text=(
        f"Of {names} it is kept what was chosen, and no key says what is right: "
        f"{'it is' if len(body.unmarked) == 1 else 'they are'} no part of the test yet."
    ))]  # fmt: skip


def _exactness(body: ItemsBody) -> list[Reading]:
    caution = "One question says little about one student."
    if body.by != "question" and any(row.questions < FEW_QUESTIONS for row in body.rows):
        caution += f" A {body.by} of fewer than {FEW_QUESTIONS} questions is a hint at most."
    exact = body.exact
    if exact.alpha is not None and exact.error is not None:
        caution += (
            f" A second sitting of a test like this would move a total by about "
            f"{number(exact.error)} marks either way (α {number(exact.alpha, 2)})."
        )
    return [Reading(kind="trust", rows=[], text=caution)]


def method_of(body: ItemsBody) -> Method:
    """How the rows are worked out."""
    says = [
        "The share of the marks of each row that a group has won, of those who reached it. What "
        "was left out between answers counts as none won; what comes after the last answer was "
        "not reached, and is missing.",
    ]
    if body.against:
        says.append(
            "Beside it each group's distance from those of the yardstick who are not in it. "
            "Students vary, and the classes of the rest; false discoveries are held to 5% over "
            "all rows and groups shown."
        )
    return Method(
        name="Question by question" if body.by == "question" else f"By {body.by}",
        says=says,
        facts={
            "questions": body.exact.questions, "alpha": body.exact.alpha,
            "error_of_measurement": body.exact.error, "reached_every_question": body.exact.n,
            "told_apart_from": body.least,
        },
        page="methods/questions-beside.md",
    )  # fmt: skip

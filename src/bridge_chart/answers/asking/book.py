"""An answer as the pages of a workbook: what it is and rests on, and its figures."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence

import sqlalchemy as sa

from bridge_chart.answers.asking.answer import Answer, lines_of
from bridge_chart.answers.asking.ask import answer as answer_to
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.answers.shows.show import Sheet, Show
from bridge_chart.output.workbook import Page, to_workbook
from bridge_chart.store.settings import Settings
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import BridgeError
from bridge_chart.terms.people import Actor
from bridge_chart.terms.wording import amount

Notes = list[tuple[str, list[str]]]


def book_of(answer: Answer, by: str, now: dt.datetime, beside: Sequence[Answer] = ()) -> bytes:
    """The answer as a workbook, a sheet for it and for each answer beside it. by: who takes it
    out, which its notes say."""
    pages = [_page(one) for one in (answer, *beside)]
    return to_workbook(answer.sentence, notes_of(answer, by, now), pages)


def views_beside(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> list[Answer]:
    """The same question in the other views that can serve it; those that cannot are left out. A
    list of students has none."""
    own = SHOWS.get(question.show)
    if question.open is not None or own is None or not _in_book(own):
        return []
    found = []
    for name, show in SHOWS.items():
        if not _in_book(show) or show.body is own.body:
            continue
        other = question.model_copy(update={"show": name, "sort": (), "options": {}, "focus": None})
        try:
            found.append(answer_to(engine, settings, actor, other))
        except BridgeError:
            continue
    return found


def _page(answer: Answer) -> Page:
    heads, lines = lines_of(answer)
    name = f"{answer.body.show} {answer.slots.split}".replace("_", " ").strip()
    sheet, body = SHOWS[answer.body.show].sheet or Sheet(), answer.body
    return Page(
        name, heads, lines,
        shades=sheet.shades(body) if sheet.shades else None,
        foot=sheet.foot(body) if sheet.foot else (),
        chart=sheet.chart(body) if sheet.chart else None,
    )  # fmt: skip


def _in_book(show: Show) -> bool:
    return show.sheet is not None and show.sheet.beside


def notes_of(answer: Answer, by: str, now: dt.datetime) -> Notes:
    """Question, who is counted, method, warnings and origin, each under its heading."""
    counted = []
    for one in answer.coverage:
        label = answer.measures[one.measure].label
        counted.append(f"{label}: {amount(one.counted)} of {amount(one.population)} counted")
        counted += [f"  {amount(gone.n)} {gone.label}" for gone in one.missing]
        if one.set_aside:
            counted.append(f"  {amount(one.set_aside)} rows of files set aside, nobody's result")
    notes: Notes = [
        ("Who is in", [answer.scope.text, *(chip.text for chip in answer.chips)]),
        ("Counted", counted),
        ("What it says", [reading.text for reading in answer.readings]),
        ("Mind", [warning.text for warning in answer.warnings]),
        ("How this is worked out", [answer.method.name, *answer.method.says]),
        ("Where it comes from", [
            f"Version {answer.resolved.version} of the record, {answer.engine}",
            f"Taken out by {by} on {now:%Y-%m-%d at %H:%M}",
        ]),
    ]  # fmt: skip
    return [(heading, lines) for heading, lines in notes if lines]

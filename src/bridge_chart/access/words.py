"""Saying the district's own words, by its data lead."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.store import tables as t
from bridge_chart.store.words import keep_words, words_in
from bridge_chart.terms.errors import ChangedMeanwhile, InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor
from bridge_chart.terms.words import DistrictWords, speak

UNCHANGED = "Nothing was changed."


@dataclass(frozen=True)
class Said:
    """The words that hold, how files call each characteristic, by its id, and how often words were
    said."""

    words: DistrictWords
    called: dict[int, str]
    revision: int


def said(engine: sa.Engine, actor: Actor) -> Said:
    """The district's words, for whoever may change them."""
    require(actor, "words")
    with engine.connect() as connection:
        words, revision = words_in(connection)
        return Said(words, _called(connection), revision)


def say_words(
    engine: sa.Engine, actor: Actor, words: DistrictWords, revision: int | None = None
) -> Said:
    """Say the district's words; who asks next is answered in them. A word equal to what files call
    a characteristic is no word of its own. Errors: NotFound for a characteristic that there is
    not, InvalidQuestion where two things would be called alike, ChangedMeanwhile where `revision`
    (None: whichever) is no longer the newest."""
    require(actor, "words")
    with engine.begin() as connection:
        newest = words_in(connection, alone=True)[1]
        if revision not in (None, newest):
            raise ChangedMeanwhile(
                "Somebody else has changed the words meanwhile.", kept=UNCHANGED,
                next_step="Look at theirs, then say yours again.",
            )  # fmt: skip
        called = _called(connection)
        unknown = set(words.characteristics) - set(called)
        if unknown:
            raise NotFound(f"There is no characteristic {min(unknown)}.", kept=UNCHANGED)
        own = {i: name for i, name in words.characteristics.items() if name != called[i]}
        _each_alone("characteristics", [own.get(i, name) for i, name in called.items()])
        for i, name in own.items():
            other = next((c for j, c in called.items() if j != i and c == name), None)
            if other is not None:
                raise InvalidQuestion(
                    f"Files call another characteristic “{other}”.", kept=UNCHANGED,
                    next_step="Choose another word, so that a file's column means one thing.",
                )  # fmt: skip
        _each_alone(words.year_levels, [words.level_name(n) for n in range(128)])
        words = words.model_copy(update={"characteristics": own})
        keep_words(connection, words, newest + 1)
    note(engine, actor, "say_words", words.model_dump(mode="json"))
    speak(words)
    return Said(words, called, newest + 1)


def _called(connection: sa.Connection) -> dict[int, str]:
    rows = connection.execute(
        sa.select(t.characteristic.c.id, t.characteristic.c.name).order_by(t.characteristic.c.name)
    )
    return {row.id: row.name for row in rows}


def _each_alone(things: str, names: list[str]) -> None:
    counts = Counter(name.lower() for name in names)
    twice = next((name for name in names if counts[name.lower()] > 1), None)
    if twice is not None:
        raise InvalidQuestion(
            f"Two {things} would be called “{twice}”.", kept=UNCHANGED,
            next_step="Give each a name of its own.",
        )  # fmt: skip

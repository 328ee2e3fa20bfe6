"""The district's words as kept: one row, or none while nobody has said any."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert

from bridge_chart.store import use_tables as u
from bridge_chart.terms.words import PLAIN, DistrictWords


def words_of(engine: sa.Engine) -> DistrictWords:
    """The words that hold now."""
    with engine.connect() as connection:
        return words_in(connection)[0]


def words_in(connection: sa.Connection, *, alone: bool = False) -> tuple[DistrictWords, int]:
    """The words that hold now, and how often they were said; `alone`: nobody else changes them
    before the transaction ends."""
    if alone:
        connection.execute(sa.text("LOCK TABLE district_words IN EXCLUSIVE MODE"))
    held = connection.execute(sa.select(u.district_words)).first()
    return (PLAIN, 0) if held is None else (DistrictWords.model_validate(held.words), held.revision)


def keep_words(connection: sa.Connection, words: DistrictWords, revision: int) -> None:
    """These words hold from here on; the caller commits."""
    values = {"single": True, "words": words.model_dump(mode="json"), "revision": revision}
    made = insert(u.district_words).values(values)
    connection.execute(made.on_conflict_do_update(index_elements=["single"], set_=values))

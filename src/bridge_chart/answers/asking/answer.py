"""The Answer, format 1: what every question is given, on screen, command line and HTTP alike."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Union

from pydantic import Field

from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.terms.answer import (
    Body,
    Chip,
    Coverage,
    MeasureInfo,
    Method,
    PageInfo,
    Reading,
    Resolved,
    ScopeText,
    Slots,
    Value,
    Warn,
)
from bridge_chart.terms.question import Question

if TYPE_CHECKING:
    AnyBody = Body
else:
    # The bodies are those of the shows that are listed; a type checker cannot read a list.
    BODIES = tuple(dict.fromkeys(show.body for show in SHOWS.values()))
    AnyBody = Annotated[Union[BODIES], Field(discriminator="show")]  # noqa: UP007


class Answer(Value):
    """One answer. `question`: as it was understood, with ids and defaults. `narrowed`: where a mark
    was opened, the question that the mark is of, asked of its students alone."""

    question: Question
    narrowed: Question | None = None
    engine: str
    resolved: Resolved
    sentence: str
    slots: Slots
    chips: list[Chip]
    scope: ScopeText
    measures: list[MeasureInfo]
    coverage: list[Coverage]
    body: AnyBody
    readings: list[Reading]
    method: Method
    warnings: list[Warn]
    page: PageInfo | None = None


def lines_of(answer: Answer) -> tuple[list[Any], list[list[Any]]]:
    """Heads and lines of the body, at full precision: the same for every output."""
    return SHOWS[answer.body.show].lines(answer.body)


def cells_of(answer: Answer) -> list[list[str]] | None:
    """What of the body fits a terminal, where its show says; else its lines do."""
    terminal = SHOWS[answer.body.show].terminal
    return None if terminal is None else terminal(answer.body)

"""The columns of a list, bound: names found, “each” written out, each column once."""

from __future__ import annotations

from bridge_chart.answers.asking.binder import Binder
from bridge_chart.answers.bound.column import ListColumn
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.splits.kinds import bind_split
from bridge_chart.answers.what.derived import counts_steps
from bridge_chart.answers.what.measures import innermost
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound

MOST_COLUMNS = 260
"""As many as a long test has questions, and what stands beside them."""
IN_STEPS = ("level", "grade")


def bind_columns(question: q.Question, binder: Binder) -> tuple[ListColumn, ...]:
    """Every column that the question asks for, in its order; InvalidQuestion where “each” makes
    too many."""
    found: dict[str, ListColumn] = {}
    for asked in question.columns:
        for column in _column(asked, binder):
            found.setdefault(column.key, column)
    if len(found) > MOST_COLUMNS:
        raise InvalidQuestion(
            f"These are {len(found)} columns; the most is {MOST_COLUMNS}.",
            next_step="Name the sittings or subjects that are wanted.",
        )
    return tuple(found.values())


def _column(asked: q.Column, binder: Binder) -> list[ListColumn]:
    if isinstance(asked, str):
        return [ListColumn(asked)]
    if isinstance(asked, q.Listed):
        found = _quantities(asked.measure, binder)
        return [_measured(asked, one, binder, several=len(found) > 1) for one in found]
    split = bind_split(asked, binder)
    bound = split.asked
    assert isinstance(bound, q.ByField | q.ByCharacteristic)
    return [ListColumn(bound, split=split)]


def _quantities(measure: q.AnyMeasure, binder: Binder) -> list[Quantity]:
    """In figures, or in steps where those are asked for or there is nothing else."""
    steps = counts_steps(measure) or innermost(measure).score in IN_STEPS
    try:
        return binder.measures.quantities(measure, steps=steps)
    except NotFound:
        if steps or innermost(measure).score != "auto" or isinstance(measure, q.Derived):
            raise
        return binder.measures.quantities(measure, steps=True)


def _measured(asked: q.Listed, own: Quantity, binder: Binder, *, several: bool) -> ListColumn:
    yardstick = _yardstick(asked.against, own, binder, several=several)
    bound = q.Listed(
        measure=own.measure, against=None if yardstick is None else yardstick.asked
    )  # fmt: skip
    return ListColumn(bound, own, yardstick)


def _yardstick(
    against: q.Yardstick | None, own: Quantity, binder: Binder, *, several: bool
) -> Yardstick | None:
    if against is None:
        return None
    if isinstance(against, q.AgainstGroup):
        raise InvalidQuestion("A group is no yardstick for a single student.")
    try:
        return binder.about(own).yardstick(against, own)
    except NotFound:
        # The first of several sittings has none before it.
        if several:
            return None
        raise

"""Conditions made of conditions: any, all, not, known."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter, known
from bridge_chart.core.arrays import Mask
from bridge_chart.terms import question as q


def any_of(c: q.AnyOf, binding: Binding) -> Filter:
    """One holds at least. It can be said where it can be said of one of them."""
    parts, size = [binding.condition(one) for one in c.any_], binding.snapshot.students
    asked = c.model_copy(update={"any_": tuple(part.asked for part in parts)})

    def decided() -> Mask:
        return np.asarray(np.logical_or.reduce([part.known(size) for part in parts]))

    return Filter(
        asked, " or ".join(part.text for part in parts),
        lambda: np.asarray(np.logical_or.reduce([part.mask for part in parts])),
        _place(parts), decided if _undecided(parts) else None,
    )  # fmt: skip


def all_of(c: q.AllOf, binding: Binding) -> Filter:
    """All hold. It can be said where it can be said of each."""
    parts, size = [binding.condition(one) for one in c.all_], binding.snapshot.students
    asked = c.model_copy(update={"all_": tuple(part.asked for part in parts)})
    return Filter(
        asked, f"({' and '.join(part.text for part in parts)})",
        lambda: np.asarray(np.logical_and.reduce([part.mask for part in parts])),
        _place(parts), (lambda: known(parts, size)) if _undecided(parts) else None,
    )  # fmt: skip


def not_(c: q.Not, binding: Binding) -> Filter:
    """It does not hold, or cannot be said."""
    part = binding.condition(c.not_)
    inner = c.not_
    lacking = isinstance(inner, q.AnyOf) and all(isinstance(x, q.Missing) for x in inner.any_)
    return Filter(
        c.model_copy(update={"not_": part.asked}),
        "counted" if lacking else f"not {part.text}",
        lambda: ~part.mask, part.place, part.decided,
    )  # fmt: skip


def is_known(c: q.Known, binding: Binding) -> Filter:
    """It can be said of every condition whether it holds."""
    parts, size = [binding.condition(one) for one in c.known], binding.snapshot.students
    asked = c.model_copy(update={"known": tuple(part.asked for part in parts)})
    text = f"known whether {' and '.join(part.text for part in parts)}"
    return Filter(asked, text, lambda: known(parts, size), _place(parts))


def _place(parts: Sequence[Filter]) -> bool:
    return any(part.place for part in parts)


def _undecided(parts: Sequence[Filter]) -> bool:
    return any(part.decided is not None for part in parts)

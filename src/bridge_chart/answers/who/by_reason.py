"""Conditions on why somebody is not counted."""

from __future__ import annotations

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.what.derived import counts_steps
from bridge_chart.answers.who.reasons import REASONS, label_of, reasons_for
from bridge_chart.terms import question as q


def by_reason(c: q.Missing, binding: Binding) -> Filter:
    """Students who are not counted for a reason, by a measure and its yardstick."""
    stepped = isinstance(c.measure, q.Measure) and c.measure.score in ("level", "grade")
    own = binding.quantity(c.measure, steps=stepped or counts_steps(c.measure))
    yardstick = binding.yardstick(c.against, own)
    against = None if yardstick is None else yardstick.asked
    c = c.model_copy(update={"measure": own.ask, "against": against})
    snapshot = binding.snapshot
    return Filter(
        c,
        f"not counted: {label_of(c.missing, own, yardstick)}",
        lambda: reasons_for(snapshot, own, yardstick) == REASONS.index(c.missing),
    )

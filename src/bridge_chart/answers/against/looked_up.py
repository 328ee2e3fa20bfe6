"""What the methods of yardsticks have in common that are looked up student by student."""

from __future__ import annotations

from bridge_chart.answers.bound.yardstick import Told, Yardstick
from bridge_chart.terms.answer import Method


def looked_up(
    yardstick: Yardstick, told: Told, name: str, page: str, minus: str, last: str
) -> Method:
    """A method that subtracts a figure of each student's own."""
    says = [
        f"Each student's {yardstick.own.score_name} in {yardstick.own.label}, {minus}; the mean "
        "over the row.",
        told.interval,
        last,
    ]
    return Method(name=name, says=says, facts=dict(told.facts), page=page)

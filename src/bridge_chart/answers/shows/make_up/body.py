"""Make-up: who the students of a set are, against the rest."""

from __future__ import annotations

from typing import Literal

from bridge_chart.terms.answer import Body, Value
from bridge_chart.terms.question import Open


class MakeUpEntry(Value):
    """One value of a characteristic: its share in the set and in everyone else. `opens`: those of
    the set who have it, whether or not they are counted."""

    dimension: str
    label: str
    in_set: int
    in_rest: int
    set_share: float
    rest_share: float
    everyone_share: float
    ratio: float | None
    low: float | None
    high: float | None
    p: float | None
    verdict: Literal["more", "fewer", "alike", "few"]
    opens: Open | None


class MakeUpBody(Body):
    """Who the set is, against the rest of the population. `left_out`: those of whom it cannot be
    said whether they are in the set; `unknown`: in the set, some characteristic is. `opens`: the
    whole set."""

    show: Literal["make_up"]
    set_label: str
    set_size: int
    rest_size: int
    unknown: int
    left_out: int
    entries: list[MakeUpEntry]
    opens: Open | None

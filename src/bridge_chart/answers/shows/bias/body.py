"""Fairness: which questions work differently for a group among students with equal totals."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from bridge_chart.terms.answer import Body, Mark, Value, Verdict

Size = Literal["slight", "moderate", "large", ""]


class BiasGroup(Mark):
    """A group of the split, held against those of the yardstick who are not in it, else against all
    other groups: n sat the form; `reached` of them, and
    `rest` of the others, reached every question and are judged; `why`: why nothing is."""

    key: str
    label: str
    reached: int
    rest: int
    why: str = ""


class BiasOfGroup(Value):
    """A question for one group. difference: its share of the marks minus that of the others with
    the same total, low and high its 95% interval; delta, delta_low, delta_high: the same on the
    scale of odds, by which it is judged where it is right or wrong (negative: harder); size: by
    the usual limits; verdict: “behind” (harder) or “ahead” (easier) where it is moderate or large
    and stands after false-discovery control."""

    difference: float | None = None
    low: float | None = None
    high: float | None = None
    delta: float | None = None
    delta_low: float | None = None
    delta_high: float | None = None
    p: float | None = None
    size: Size = ""
    verdict: Verdict = "few"


class BiasRow(Value):
    """A question, its place in the paper from 1, and one entry for each group."""

    key: str
    label: str
    place: int
    maximum: float
    about: dict[str, str] = Field(default_factory=dict)
    of: list[BiasOfGroup]


class BiasBody(Body):
    """`missing`: of those who sat the form, who did not reach every question."""

    show: Literal["bias"]
    dimension: str
    groups: list[BiasGroup]
    rows: list[BiasRow]
    missing: int

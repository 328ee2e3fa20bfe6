"""Standing: how many are below, on and above what they are held against."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.shows.levels.body import SteppedBody
from bridge_chart.terms.answer import Mark


class StandingOptions(BaseModel):
    """also: further kinds of target to stand beside the one that is asked for."""

    model_config = ConfigDict(extra="forbid")

    also: list[str] = Field(default=[], max_length=3)


class TargetsDiffer(Mark):
    """Two kinds of target of the same students (n have both): for how many they differ (`differ`),
    and by how many steps (or points) the second is higher on average."""

    first: str
    second: str
    differ: int
    mean: float | None = None
    unit: str = ""


class StandingBody(SteppedBody):
    """As Levels, of words instead of levels: `steps` from the lowest, `pass_at` the first in which
    the yardstick is met; with several targets a row for each. `held`: what they are held against;
    `differ`: how the targets differ."""

    show: Literal["standing"]
    held: list[str]
    differ: list[TargetsDiffer] = Field(default_factory=list)

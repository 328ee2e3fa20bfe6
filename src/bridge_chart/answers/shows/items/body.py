"""Inside a test: its questions, or its strands, group by group."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.shows.items.looked_body import Looked
from bridge_chart.terms.answer import Body, Mark, Value, Verdict
from bridge_chart.terms.question import PartKind


class ItemOptions(BaseModel):
    """by: a row for each question, or for all questions that share a tag. order: furthest from
    where a group is held against first, or as the paper has them. look: the row that is looked at
    more closely, by its name. only: a tag; questions that carry it alone are looked into."""

    model_config = ConfigDict(extra="forbid")

    by: PartKind = "question"
    order: Literal["difference", "paper"] = "difference"
    look: str | None = None
    only: str | None = None


class ItemShare(Mark):
    """A group's share of a row's marks: n reached it, missing have no mark in it. Of the n,
    `omitted` left it out, which counts as none won; of the missing, `not_reached` sat the form.
    `nation`: the share of the nation's students of the same form and year levels."""

    omitted: int = 0
    not_reached: int = 0
    share: float | None = None
    low: float | None = None
    high: float | None = None
    nation: float | None = None


class ItemBeside(Value):
    """A group minus those of the yardstick who are not in it; rest: their share, rest_n: how many
    of them reached it. In shares, not points."""

    rest: float | None = None
    rest_n: int = 0
    span: float | None = None
    low: float | None = None
    high: float | None = None
    p: float | None = None
    verdict: Verdict = "none"


class Item(Value):
    """A row. `place`: in the paper, from 1; `questions`: how many it sums up; `about`: its tags.
    `shares`, `beside`: one for each group. `discrimination`: how a question goes with the rest of
    the test; `again`: why somebody should read it again. `alpha`, `report`: of a strand, how exact
    it is, and whether it says something of its own."""

    key: str
    label: str
    title: str = ""
    place: int
    questions: int
    maximum: float
    about: dict[str, str] = Field(default_factory=dict)
    shares: list[ItemShare]
    beside: list[ItemBeside] = Field(default_factory=list)
    paired: list[PairedShare] = Field(default_factory=list)
    discrimination: float | None = None
    again: str | None = None
    alpha: float | None = None
    report: Literal["yes", "with caution", "no"] | None = None


class ItemGroup(Mark):
    """A group of the split: n sat the form, missing did not."""

    key: str
    label: str


class Exact(Value):
    """How exact the whole test is among those looked at: α, the error of measurement in marks, over
    n who reached every question; why there is none."""

    questions: int
    n: int
    missing: int
    alpha: float | None = None
    low: float | None = None
    high: float | None = None
    error: float | None = None
    reason: str = ""


class PairedShare(Value):
    """What a class that is paired with one's own won of a row's marks; nobody of it is opened."""

    n: int
    missing: int
    share: float | None = None
    low: float | None = None
    high: float | None = None


class PairedClass(Value):
    """A class that is paired with one's own for a talk: n sat the form, missing did not. `few`: too
    few to say more."""

    label: str
    n: int
    missing: int
    few: bool = False


class Uneven(Mark):
    """Students who won far more of one paper's marks than of the other's, beyond error and what
    everybody finds harder."""

    better: str
    worse: str


class ItemsBody(Body):
    """`form`: of the test, if it has several. `against`: whom the groups are held against, in
    words; none: nobody. `kinds`: tags by which its questions can be put together. `least`: about
    how far from its rest the first group must be on one question, to be told apart by chance
    alone. `only`: the tag that all rows carry. `looked`: the row that is looked at;
    `unmarked`: questions whose letters await a key. `uneven`: of two papers, who is far better on
    one of them. `paired`: classes beside the asker's own, in the order of each row's."""

    show: Literal["items"]
    form: str
    by: PartKind
    kinds: list[PartKind]
    order: Literal["difference", "paper"]
    only: str | None = None
    dimension: str
    against: str | None
    groups: list[ItemGroup]
    rows: list[Item]
    exact: Exact
    least: float | None = None
    looked: Looked | None = None
    uneven: list[Uneven] = Field(default_factory=list)
    unmarked: list[str] = Field(default_factory=list)
    paired: list[PairedClass] = Field(default_factory=list)

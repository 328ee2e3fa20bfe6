"""A row of a test that is looked at more closely: which option was chosen, what was written."""

from __future__ import annotations

from pydantic import Field

from bridge_chart.terms.answer import Mark, Value
from bridge_chart.terms.question import What


class OptionShare(Mark):
    """How many of a group chose an option: n of those who sat the form; share of all of them, with
    Wilson's 95% interval."""

    share: float | None = None
    low: float | None = None
    high: float | None = None


class ThirdShare(Value):
    """The share of a third of the test that chose an option, with Wilson's 95% interval."""

    share: float | None = None
    low: float | None = None
    high: float | None = None


class OptionRow(Value):
    """An option of the question; none chosen is a row too. `says`: its words; `right`: by the key;
    `thirds`: its share among the lowest, middle and best third by the whole test."""

    option: str
    says: str = ""
    right: bool = False
    shares: list[OptionShare]
    thirds: list[ThirdShare]


class WrittenText(Value):
    """A text as most wrote it, and how many wrote like it."""

    text: str
    n: int


class WrittenBy(Value):
    """What a group wrote: n students, `others`: texts that are not shown: the rarest of many, and
    while names are hidden what fewer than three wrote alike, for it may hold one."""

    n: int
    texts: list[WrittenText]
    others: int = 0


class PairedOption(Value):
    """How many of a paired class chose an option, as many as the row's options, in their order."""

    n: int
    share: float
    low: float
    high: float


class PairedAnswers(Value):
    """How a class that is paired with one's own answered: texts that three or more wrote alike,
    `others`: how many wrote something else."""

    label: str
    n: int
    options: list[PairedOption] = Field(default_factory=list)
    written: WrittenBy


class Elsewhere(Value):
    """The same question in another form or sitting: the share of its marks that was won there by
    all who sat it; `asked`: that form, as a question writes it."""

    n: int
    missing: int
    asked: What
    label: str
    question: str
    share: float | None = None
    low: float | None = None
    high: float | None = None


class Looked(Value):
    """A row that is looked at. `key`: what is right, none where it has no options; `doubt`: why the
    key may be wrong, and `instead`: which option the best chose; `thirds`: how many students each
    third has; `questions`: of what is put together, what it is put together from; `page`: in the
    paper."""

    label: str
    title: str = ""
    maximum: float
    about: dict[str, str] = Field(default_factory=dict)
    key: str | None = None
    doubt: str | None = None
    instead: str | None = None
    options: list[OptionRow] = Field(default_factory=list)
    thirds: list[int] = Field(default_factory=list)
    written: list[WrittenBy] = Field(default_factory=list)
    paired: list[PairedAnswers] = Field(default_factory=list)
    elsewhere: list[Elsewhere] = Field(default_factory=list)
    questions: list[str] = Field(default_factory=list)
    page: int | None = None

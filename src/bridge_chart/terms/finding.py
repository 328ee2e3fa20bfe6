"""What the intake found in a file, and what it asks of a person."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

FileKind = Literal[
    "roster", "results", "credits", "scale", "questions", "national", "expectation", "conversion",
    "movement", "award", "practice", "reliability", "names", "next_steps",
]  # fmt: skip
"""What a file may hold: students, their results, or a table of reference."""


class Value(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Choice(Value):
    key: str
    label: str


class Offer(Value):
    """A number of the file and the one student whom it is likely to mean, with the evidence.
    `student`: that student's own number; `row`: a line of the file; `settled`: accepted or refused
    by a person, who can take it back."""

    number: str
    row: int
    student: str
    name: str
    why: str
    settled: bool = False


class DoubledRow(Value):
    """A row of a double: the file's own line, and what it says there."""

    line: int
    says: str


class Double(Value):
    """Rows that contradict each other about one and the same. `key` names it in decisions;
    `chosen`: the line that counts, or set_aside, where a person said so for this one."""

    key: str
    person: str = ""
    rows: list[DoubledRow]
    chosen: str | None = None


class Finding(Value):
    """One thing found. `stop` must be settled before keeping; `ask` has a default that can be
    changed; `done` was repaired and can be undone. `rows` are the file's own line numbers."""

    key: str
    kind: Literal["stop", "ask", "done"]
    title: str
    detail: str
    n: int
    rows: list[int]
    choices: list[Choice] = Field(default_factory=list)
    offers: list[Offer] = Field(default_factory=list)
    doubles: list[Double] = Field(default_factory=list)
    chosen: str | None = None

    @property
    def unsettled(self) -> bool:
        return self.kind == "stop" and self.chosen is None


class ColumnInfo(Value):
    """What a column of the file is taken for, with examples from the user's own rows. `about`: the
    test, subject, sitting, date and form of its results, where the sheet has several; `word`: what
    its name calls the kind of score, where a pattern says how names are built."""

    index: int
    header: str
    role: str
    why: str
    confident: bool
    examples: list[str]
    about: dict[str, str | None] = Field(default_factory=dict)
    word: str = ""


class LeftOut(Value):
    """Cells of the file that nothing is kept of: a column (`header`) that is left out, with how
    many cells of it say something, or cells of one that were not understood."""

    header: str
    n: int
    why: str


class Count(Value):
    key: str
    label: str
    n: int


ChangeKind = Literal["gone", "moved", "new", "changed", "gained", "lost"]


class Change(Value):
    """A kept value that the file writes differently. `what`: the sitting, the characteristic,
    “school”, “name” or the kind of class; `line`: the file's own, 0 where it has none."""

    kind: ChangeKind
    what: str
    line: int
    number: str
    name: str
    before: str
    after: str


class ChangeGroup(Value):
    """All changes of one kind, in words with their number; the first of them are listed."""

    kind: ChangeKind
    what: str
    title: str
    n: int


class Creation(Value):
    """Names that do not exist yet and that keeping would create."""

    kind: str
    names: list[str]


class DefaultUsed(Value):
    """Something the file did not say, and what was assumed."""

    key: str
    value: str
    why: str


class Picture(Value):
    """The match: rows on both sides, and how they meet."""

    left: str
    left_note: str
    left_total: int
    left_unmatched: int
    right: str
    right_note: str
    right_total: int
    right_unmatched: int
    matched: int
    by_number: int
    by_repair: int
    by_hand: int = 0
    doubled: int


class FirstLook(Value):
    """One score as it would be kept: of figures a histogram (`edges`) with the mean and its 95%
    interval, of grades and levels how many have each of `steps`. Null: not defined for so few."""

    label: str
    n: int
    missing: int
    mean: float | None = None
    low: float | None = None
    high: float | None = None
    sd: float | None = None
    edges: list[float] = Field(default_factory=list)
    steps: list[str] = Field(default_factory=list)
    counts: list[int]


class Examination(Value):
    """Everything a person sees before keeping. `token` names exactly this outcome."""

    kind: FileKind
    title: str
    version: int
    columns: list[ColumnInfo]
    roles: list[Choice]
    defaults: list[DefaultUsed]
    picture: Picture | None
    findings: list[Finding]
    counts: list[Count]
    creates: list[Creation]
    first_look: list[FirstLook]
    changes: list[Change] = Field(default_factory=list)
    change_groups: list[ChangeGroup] = Field(default_factory=list)
    left_out: list[LeftOut] = Field(default_factory=list)
    lines_in_file: int = 0
    rows_in_file: int
    rows_kept: int
    rows_set_aside: int
    rows_copies: int
    token: str = ""

    @property
    def unsettled(self) -> list[Finding]:
        return [finding for finding in self.findings if finding.unsettled]


class NameInUse(Value):
    """A name that is kept. `what`: school, subject, test, sitting, characteristic, value; `of`: the
    test of a sitting, the characteristic of a value; `n`: students of the newest roll, or
    results; `also`: other names that mean it; `dates`: of its sittings; `holds`: what a
    characteristic is."""

    what: str
    of: str
    name: str
    n: int
    also: list[str]
    dates: list[str]
    holds: str

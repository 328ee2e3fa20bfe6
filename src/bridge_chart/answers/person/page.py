"""The page of a student, as every output has it."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import Field

from bridge_chart.answers.beside.student_notes import NoteOnStudent
from bridge_chart.answers.shows.students.body import FileLine
from bridge_chart.terms.answer import Value
from bridge_chart.terms.question import Open, Question

Sign = Literal["ahead", "behind", "none", ""]


class Spell(Value):
    """What held from a roster's day on. `what`: school, year level, class, or a characteristic;
    `until`: the day of the roster that says otherwise, None: it still holds."""

    what: str
    value: str
    since: dt.date
    until: dt.date | None


class Claim(Value):
    """A target or prediction of the same sitting. `away`: how far the result is from it, in steps
    or in its unit; None where there is no result."""

    label: str
    value: str
    away: float | None
    in_steps: bool


class Also(Value):
    """The result on another scale, or what it makes of a student's pace, in words."""

    label: str
    value: str


class Result(Value):
    """One sitting in one subject. `why`: why there is no figure. `expected`: what similar starters
    reach, `error`: by how much they vary around it (one standard deviation), `sign`: whether the
    result is further away than that. `measured`: the error of measurement of the score, where the
    test's exactness is declared. `inside`: what to ask to see it question by question, where that
    is known. `standing`: the result in the timeline's unit, with the reach of the error of
    measurement and of nine in ten similar starters."""

    label: str
    about: str
    sitting: str
    date: dt.date
    assessment: str
    score_name: str
    unit: str
    decimals: int
    value: float | None
    level: str
    tone: float | None
    why: str
    started: str = ""
    expected: float | None = None
    error: float | None = None
    span: float | None = None
    sign: Sign = ""
    measured: float | None = None
    inside: Question | None = None
    percentile: float | None = None
    standing: float | None = None
    standing_low: float | None = None
    standing_high: float | None = None
    similar_low: float | None = None
    similar_high: float | None = None
    claims: list[Claim] = Field(default_factory=list)
    also: list[Also] = Field(default_factory=list)
    origin: FileLine | None = None
    file: str = ""


class Timeline(Value):
    """A subject over its sittings; `results`: places in the page's results, by date. `unit`:
    percentile: national percentile rank; z: standard deviations from the district's mean of the
    same year level; none: nothing that is comparable."""

    about: str
    unit: Literal["percentile", "z", "none"]
    results: list[int]


class Strand(Value):
    """A part of a test: won of what its questions are worth, and the mean share of the others who
    sat the same form in the same year level, with how many they are. `beyond`: further away than
    so few questions would give by chance."""

    strand: str
    questions: int
    won: float
    worth: float
    share: float
    others: float | None
    others_n: int
    beyond: Sign


class Strands(Value):
    """The newest sitting with marks by question, strand by strand, weakest against others first."""

    label: str
    date: dt.date
    about: str
    level: str
    strands: list[Strand]


class NextStep(Value):
    """A line of the district's own table."""

    strand: str
    level: str
    text: str
    link: str


class CreditRecord(Value):
    """A record of a standard; `counts`: the conditions of awards that it counts for."""

    standard: str
    title: str
    subject: str
    level: str
    kind: str
    result: str
    credits: float
    banked: bool
    date: dt.date
    counts: list[str]
    origin: FileLine
    file: str


class ConditionHeld(Value):
    """A condition of an award: what it says, how much the student has of what it needs, and, on
    course, the fewest estimated standards that would meet it (`closes`)."""

    name: str
    says: str
    needed: float
    unit: str
    banked: float
    with_estimates: float
    state: str
    short: float
    closes: list[str]


class AwardHeld(Value):
    """An award and how the student stands in it; on course, the fewest estimated standards that it
    rests on."""

    name: str
    says: list[str]
    state: str
    rests: list[str]
    conditions: list[ConditionHeld]


class Credits(Value):
    """Credit records by date, and the awards by their rules in the newest school year."""

    school_year: str
    records: list[CreditRecord]
    awards: list[AwardHeld]


class InList(Value):
    id: int
    name: str
    review: dt.date | None


class Said(Value):
    """A sentence about them. hint: of a single result; finding: of a run of them; plain: nothing
    stands out; chance: how much of this chance alone would give."""

    kind: Literal["finding", "hint", "plain", "chance"]
    sign: Sign
    text: str


class StudentPage(Value):
    """`opens`: what lists them in any question."""

    id: int
    name: str
    number: str
    born: dt.date | None
    version: int
    today: dt.date | None
    place: str
    spells: list[Spell]
    results: list[Result]
    timelines: list[Timeline]
    says: list[Said]
    strands: list[Strands]
    next_steps: list[NextStep]
    notes: list[NoteOnStudent]
    lists: list[InList]
    credits: Credits | None = None
    opens: Open

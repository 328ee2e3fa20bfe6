"""Rules of awards as they are written, read back as sentences and tried on three students before
they are kept."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import sqlalchemy as sa
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.access.scoped import seen_by
from bridge_chart.answers.what.award import STATES, Judged, judged_on
from bridge_chart.core.arrays import Integers
from bridge_chart.core.awards.judge import MET, NOT_YET, ON_COURSE
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.answer import Value
from bridge_chart.terms.award_rule import AwardRule, read_rules, rows_that_hold, troubles
from bridge_chart.terms.people import Actor

MOST_TRIED_OF = 2_000
"""Students among whom three are looked for."""
COLUMNS = ("standard", "subject", "level", "kind", "result")


class RuleRow(BaseModel):
    """A row of the table of awards, as docs/files/award.md says; several of a column parted by
    bars."""

    model_config = ConfigDict(extra="forbid")

    award: str = Field(max_length=200)
    grade: str = Field(default="", max_length=100)
    condition: str = Field(max_length=200)
    within: str = Field(default="", max_length=200)
    joins: str = Field(default="", max_length=20)
    credits: float | None = Field(default=None, ge=0, le=100_000)
    subjects: float | None = Field(default=None, ge=0, le=1_000)
    subject: str = Field(default="", max_length=1_000)
    level: str = Field(default="", max_length=1_000)
    kind: str = Field(default="", max_length=1_000)
    result: str = Field(default="", max_length=1_000)
    standards: str = Field(default="", max_length=20_000)
    school_year: str = Field(default="", max_length=20)
    year_level: int | None = Field(default=None, ge=-3, le=30)


class RuleRead(Value):
    """A rule read back, a sentence each for its conditions and sets."""

    name: str
    says: list[str]


class RowTrouble(Value):
    """Why a row cannot be meant: words that go on after its condition's name."""

    row: int
    why: str


class ConditionTried(Value):
    name: str
    has: float
    needed: float
    unit: str
    state: str


class StudentTried(Value):
    """How a student would stand in a rule that is not kept."""

    rule: str
    student: int
    name: str
    state: str
    conditions: list[ConditionTried]


class RulesRead(Value):
    rules: list[RuleRead]
    troubles: list[RowTrouble]
    tried: list[StudentTried]
    counts: list[list[int]]
    """For each rule how many of the students with records would be not yet, on course, met."""


class RulesKept(Value):
    """The rows that hold, and what credit records name: by column, for whoever writes a rule."""

    rows: list[RuleRow]
    names: dict[str, list[str]]


def kept_rules(engine: sa.Engine, settings: Settings, actor: Actor) -> RulesKept:
    """Every row of the newest table of each award, school year and year level."""
    require(actor, "intake")
    snapshot = seen_by(engine, settings.snapshots, actor)
    rows = rows_that_hold(snapshot.tables.rows("award"))
    names = snapshot.credits.names if snapshot.credits else {}
    return RulesKept(
        rows=[_written(row) for row in rows],
        names={column: sorted(names.get(column, ())) for column in COLUMNS},
    )


def _written(row: Mapping[str, object]) -> RuleRow:
    told = {key: value for key, value in row.items() if key in RuleRow.model_fields}
    standards = row.get("standards") or []
    assert isinstance(standards, list)
    return RuleRow.model_validate({**told, "standards": "|".join(map(str, standards))})


def read_back(
    engine: sa.Engine, settings: Settings, actor: Actor, rows: list[RuleRow]
) -> RulesRead:
    """What rows would mean, tried on three students of the newest school year with records. That
    their records were looked at is noted."""
    require(actor, "intake")
    require(actor, "open_students")
    cells = [cells_of(row) for row in rows]
    wrong = troubles(cells)
    told = [RowTrouble(row=n, why=why) for n, why in sorted(wrong.items())]
    rules = [] if wrong else read_rules(cells)
    snapshot = seen_by(engine, settings.snapshots, actor)
    tried, counts = _tried(snapshot, rules)
    if tried:
        who = sorted({one.student for one in tried})
        note(engine, actor, "try_award", {"students": who, "version": snapshot.version})
    return RulesRead(
        rules=[RuleRead(name=rule.name, says=rule.says) for rule in rules], troubles=told,
        tried=tried, counts=counts,
    )  # fmt: skip


def cells_of(row: RuleRow) -> dict[str, object]:
    """A row as tables keep it."""
    standards = [one.strip() for one in row.standards.split("|") if one.strip()]
    return {**row.model_dump(), "standards": standards}


def _tried(
    snapshot: Snapshot, rules: list[AwardRule]
) -> tuple[list[StudentTried], list[list[int]]]:
    if snapshot.credits is None or not snapshot.credit_years:
        return [], []
    year = snapshot.credit_years[-1]
    tried, counts = [], []
    for rule in rules:
        held = judged_on(snapshot, year, rule)
        recorded = np.unique(held.records.student)
        state = held.whole.status[recorded]
        counts.append(np.bincount(state, minlength=len(STATES)).tolist())
        tried += [
            _student(snapshot, rule, held, one)
            for one in _three(held, recorded[:: max(1, len(recorded) // MOST_TRIED_OF)])
        ]
    return tried, counts


def _three(held: Judged, students: Integers) -> list[int]:
    """One who would meet it, one on course and one not yet, each as near the next as there is."""
    order = np.lexsort((-held.whole.with_estimates[students], -held.whole.banked[students]))
    ranked = students[order]
    state = held.whole.status[ranked]
    firsts = [ranked[state == wanted][:1].tolist() for wanted in (MET, ON_COURSE, NOT_YET)]
    found = [one for first in firsts for one in first]
    others = [one for one in ranked.tolist() if one not in found]
    return [*found, *others[: 3 - len(found)]]


def _student(snapshot: Snapshot, rule: AwardRule, held: Judged, at: int) -> StudentTried:
    name = f"{snapshot.given_names[at]} {snapshot.family_names[at]}".strip()
    conditions = []
    for condition, found in zip(rule.conditions, held.whole.parts, strict=True):
        parts = held.parts(condition)
        conditions.append(
            ConditionTried(
                name=condition.name, has=float(found.with_estimates[at] / parts),
                needed=float(condition.needed), unit=condition.unit,
                state=STATES[int(found.status[at])],
            )
        )  # fmt: skip
    return StudentTried(
        rule=rule.name, student=int(snapshot.student_ids[at]),
        name=name or str(snapshot.numbers[at]), state=STATES[int(held.whole.status[at])],
        conditions=conditions,
    )  # fmt: skip

"""What can be asked: everything that the pickers of the sentence offer, with counts."""

from __future__ import annotations

from typing import Any

import numpy as np
import sqlalchemy as sa

from bridge_chart.access.rules import require, scope_for
from bridge_chart.store.codes import SCORE_NAMES
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.answer import Value
from bridge_chart.terms.people import Actor


class Option(Value):
    """A value that a slot may take, with the students it has today."""

    id: int | str | None
    label: str
    n: int


class CharacteristicOptions(Value):
    id: int
    label: str
    options: list[Option]


class MeasureOption(Value):
    key: str
    label: str
    assessment_id: int
    assessment: str
    subject_id: int | None
    subject: str | None
    sitting_id: int
    sitting: str
    date: str
    score: str
    score_label: str
    n: int
    has_prior: bool


class Catalogue(Value):
    """The whole offer, in the scope of who asks."""

    version: int
    today: str | None
    scope: str
    students: int
    schools: list[Option]
    year_levels: list[Option]
    classes: list[Option]
    teachers: list[Option]
    characteristics: list[CharacteristicOptions]
    measures: list[MeasureOption]


def catalogue(engine: sa.Engine, settings: Settings, actor: Actor) -> Catalogue:
    """What the actor can ask of the newest version."""
    require(actor, "ask")
    snapshot = snapshot_of(engine, settings.snapshots)
    scope = scope_for(actor)
    own = [
        n for n, s in enumerate(snapshot.schools) if scope.whole or s.id in (scope.schools or ())
    ]
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if roll is None:
        return Catalogue(
            version=snapshot.version, today=None, scope="", students=0, schools=[],
            year_levels=[], classes=[], teachers=[], characteristics=[], measures=[],
        )  # fmt: skip
    mine = np.isin(roll.school, own)
    return Catalogue(
        version=snapshot.version,
        today=str(snapshot.today),
        scope="the whole district"
        if scope.whole
        else " and ".join(snapshot.schools[n].name for n in own),
        students=int(mine.sum()),
        schools=_schools(snapshot, roll, own),
        year_levels=_year_levels(roll, mine),
        **_classes(snapshot, roll, mine),
        characteristics=_characteristics(snapshot, roll, mine),
        measures=_measures(snapshot, mine),
    )


def _schools(snapshot: Snapshot, roll: Roll, own: list[int]) -> list[Option]:
    counts = np.bincount(np.asarray(roll.school) + 1, minlength=len(snapshot.schools) + 1)[1:]
    return [
        Option(id=snapshot.schools[n].id, label=snapshot.schools[n].name, n=int(counts[n]))
        for n in own
    ]


def _year_levels(roll: Roll, mine: Any) -> list[Option]:
    values, counts = np.unique(np.asarray(roll.year_level)[mine], return_counts=True)
    return [
        Option(id=int(v), label=f"Year {v}", n=int(n))
        for v, n in zip(values, counts, strict=True)
        if v >= 0
    ]


def _classes(snapshot: Snapshot, roll: Roll, mine: Any) -> dict[str, list[Option]]:
    members = np.asarray(roll.members)
    held = members[mine[members[:, 0]], 1]
    counts = np.bincount(held, minlength=len(snapshot.classes))
    places = {s.id: s.name for s in snapshot.schools}
    classes, teachers = [], dict.fromkeys(snapshot.staff, 0)
    for at, n in enumerate(counts):
        if n:
            item = snapshot.classes[at]
            label = f"{item.name} · {places[item.school_id]}"
            classes.append(Option(id=item.id, label=label, n=int(n)))
            for person in item.teachers:
                teachers[snapshot.staff[person]] += int(n)
    taught = [Option(id=name, label=name, n=n) for name, n in teachers.items() if n]
    return {"classes": classes, "teachers": taught}


def _characteristics(snapshot: Snapshot, roll: Roll, mine: Any) -> list[CharacteristicOptions]:
    out = []
    for item in snapshot.characteristics:
        codes = np.asarray(roll.characteristic(item.id, snapshot.students))[mine]
        counts = np.bincount(codes.astype(np.int64) + 1, minlength=len(item.options) + 1)
        options = [
            Option(id=o.id, label=o.name, n=int(counts[at + 1]))
            for at, o in enumerate(item.options)
            if counts[at + 1]
        ]
        if counts[0] and options:
            options.append(Option(id=None, label="not known", n=int(counts[0])))
        if options:
            out.append(CharacteristicOptions(id=item.id, label=item.name, options=options))
    return out


def _measures(snapshot: Snapshot, mine: Any) -> list[MeasureOption]:
    """Measures in figures, newest first."""
    out = []
    for m in sorted(snapshot.measures, key=lambda m: (-m.date.toordinal(), m.label)):
        if m.score in ("level", "grade"):
            continue
        out.append(
            MeasureOption(
                key=m.key,
                label=m.label,
                assessment_id=m.assessment.id,
                assessment=m.assessment.name,
                subject_id=m.subject.id if m.subject else None,
                subject=m.subject.name if m.subject else None,
                sitting_id=m.sitting.id,
                sitting=m.sitting.name,
                date=str(m.date),
                score=m.score,
                score_label=SCORE_NAMES[m.score],
                n=int(np.count_nonzero(~np.isnan(snapshot.values(m)) & mine)),
                has_prior=_has_prior(snapshot, m),
            )
        )
    return out


def _has_prior(snapshot: Snapshot, m: MeasureKey) -> bool:
    return any(
        other.assessment == m.assessment
        and other.subject == m.subject
        and other.score == m.score
        and other.date < m.date
        for other in snapshot.measures
    )

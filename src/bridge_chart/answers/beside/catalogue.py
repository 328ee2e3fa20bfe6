"""What can be asked: everything that the pickers of the sentence offer, with counts."""

from __future__ import annotations

import datetime as dt
from typing import Any

import numpy as np
import sqlalchemy as sa
from pydantic import Field

from bridge_chart.access.rules import require
from bridge_chart.access.scoped import seen_by
from bridge_chart.answers.against.prior import declared_priors
from bridge_chart.answers.asking.binder import Binder
from bridge_chart.answers.beside.groups import Group, list_groups
from bridge_chart.answers.bound.names import courses_of
from bridge_chart.answers.bound.quantity import plain
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.shows.chances.past import later_tests
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.answers.what.award import rules_for
from bridge_chart.answers.what.convert import conversions_for
from bridge_chart.answers.what.cut_scores import cuts_by_year_level
from bridge_chart.answers.what.expected_tables import Goal, goals_of
from bridge_chart.answers.what.parts import kinds_in, parts_of
from bridge_chart.answers.what.values import of_same_students
from bridge_chart.store.codes import SCORE_NAMES, STEPPED, UNITS
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Value
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor
from bridge_chart.terms.words import spoken

SINCE = q.AgainstEarlier(
    earlier=q.EarlierSpec(
        measure=q.Measure(assessment="same", subject="same", sitting=q.Back(back=1))
    )
)
"""The sitting before, of the same students."""


class Option(Value):
    """A value that a slot may take, with the students it has today."""

    id: int | str | None
    label: str
    n: int


class CharacteristicOptions(Value):
    id: int
    label: str
    holds: str
    options: list[Option]


class ScoreOption(Value):
    """A kind of score that a sitting has, with the students of the scope who have it."""

    score: q.Score
    label: str
    unit: str
    n: int


class ClaimOption(Value):
    """Targets or predictions about a sitting; `kind`: which target."""

    role: q.Role
    kind: str | None
    label: str


class PartOption(Value):
    """Parts of a test whose marks are kept by question. `ranked`: the nation has percentiles of
    them."""

    kind: q.PartKind
    names: list[str]
    ranked: bool


class MeasureOption(Value):
    """One sitting of one test in one subject, and everything that can be asked of it. `growth`:
    the goals of its growth table since the sitting before; `converts`: the scales that a table
    converts it onto; `has_later`: whether students of an earlier sitting went on to a later test
    in levels or grades."""

    key: str
    label: str
    assessment_id: int
    assessment: str
    subject_id: int | None
    subject: str | None
    sitting_id: int
    sitting: str
    date: str
    n: int
    scores: list[ScoreOption]
    steps: list[str]
    cuts: list[str]
    forms: list[str]
    parts: list[PartOption]
    claims: list[ClaimOption]
    has_figures: bool
    has_prior: bool
    has_earlier: bool
    has_nation: bool
    growth: list[Goal] = Field(default_factory=list)
    has_later: bool = False
    converts: list[str] = Field(default_factory=list)
    siblings: int


class ShowOption(Value):
    """A show, and what of a question it takes besides who, what, split, against and cohort."""

    show: str
    label: str
    takes: list[str]
    pins: list[str]
    measures: int | None


class AwardOption(Value):
    """An award that can be asked for in a school year with credit records, newest first."""

    name: str
    conditions: list[str]
    assessment_id: int
    school_year: str
    sitting_id: int


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
    courses: list[Option]
    characteristics: list[CharacteristicOptions]
    measures: list[MeasureOption]
    groups: list[Group]
    awards: list[AwardOption] = Field(default_factory=list)
    shows: list[ShowOption]


def catalogue(engine: sa.Engine, settings: Settings, actor: Actor) -> Catalogue:
    """What the actor can ask of the newest version."""
    require(actor, "ask")
    snapshot = seen_by(engine, settings.snapshots, actor)
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if roll is None:
        return Catalogue(
            version=snapshot.version, today=None, scope="", students=0, schools=[],
            year_levels=[], classes=[], teachers=[], courses=[], characteristics=[],
            measures=[], groups=[], shows=_shows(),
        )  # fmt: skip
    mine = np.asarray(roll.school >= 0)
    return Catalogue(
        version=snapshot.version,
        today=str(snapshot.today),
        scope=snapshot.whose,
        students=int(mine.sum()),
        schools=_schools(snapshot, roll),
        year_levels=_year_levels(roll, mine),
        **_classes(snapshot, roll, mine),
        characteristics=_characteristics(snapshot, roll, mine),
        measures=_measures(snapshot),
        groups=list_groups(engine, actor),
        awards=_awards(snapshot),
        shows=_shows(),
    )


def _awards(snapshot: Snapshot) -> list[AwardOption]:
    return [
        AwardOption(
            name=rule.name, conditions=[one.name for one in rule.conditions],
            assessment_id=year.assessment.id, school_year=year.academic_year,
            sitting_id=year.sitting.id,
        )
        for year in reversed(snapshot.credit_years)
        for rule in rules_for(snapshot, year.academic_year)
    ]  # fmt: skip


def _shows() -> list[ShowOption]:
    return [
        ShowOption(
            show=show.name, label=show.label, takes=sorted(show.takes), pins=list(show.pins),
            measures=show.most,
        )
        for show in SHOWS.values()
    ]  # fmt: skip


def _schools(snapshot: Snapshot, roll: Roll) -> list[Option]:
    counts = np.bincount(np.asarray(roll.school) + 1, minlength=len(snapshot.schools) + 1)[1:]
    return [
        Option(id=school.id, label=school.name, n=int(n))
        for school, n in zip(snapshot.schools, counts, strict=True)
    ]


def _year_levels(roll: Roll, mine: Any) -> list[Option]:
    values, counts = np.unique(np.asarray(roll.year_level)[mine], return_counts=True)
    return [
        Option(id=int(v), label=spoken().level_name(int(v)), n=int(n))
        for v, n in zip(values, counts, strict=True)
        if v >= 0
    ]


def _classes(snapshot: Snapshot, roll: Roll, mine: Any) -> dict[str, list[Option]]:
    members = np.asarray(roll.members)
    held = members[mine[members[:, 0]], 1]
    counts = np.bincount(held, minlength=len(snapshot.classes))
    places = {s.id: s.name for s in snapshot.schools}
    classes, teachers = [], dict.fromkeys(snapshot.staff, 0)
    courses = dict.fromkeys(courses_of(snapshot), 0)
    for at, n in enumerate(counts):
        if n:
            item = snapshot.classes[at]
            label = f"{item.name} · {places[item.school_id]}"
            classes.append(Option(id=item.id, label=label, n=int(n)))
            for person in item.teachers:
                teachers[snapshot.staff[person]] += int(n)
            for course in item.courses:
                courses[course] += int(n)
    taught = [Option(id=name, label=name, n=n) for name, n in teachers.items() if n]
    given = [Option(id=name, label=name, n=n) for name, n in courses.items() if n]
    return {"classes": classes, "teachers": taught, "courses": given}


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
            out.append(
                CharacteristicOptions(
                    id=item.id, label=item.name, holds=item.holds, options=options
                )
            )
    return out


def _measures(snapshot: Snapshot) -> list[MeasureOption]:
    """A sitting and subject each, newest first; worked out once for a version and the words in
    which it is said."""
    said = spoken().model_dump_json()
    return list(kept_for(snapshot, ("measures to ask", said), lambda: _all_measures(snapshot)))


def _all_measures(snapshot: Snapshot) -> tuple[MeasureOption, ...]:
    by_sitting: dict[int, list[MeasureKey]] = {}
    for m in snapshot.measures:
        by_sitting.setdefault(m.sitting.id, []).append(m)
    names = Binder(snapshot)
    out = [_measure(names, keys) for keys in by_sitting.values()]
    days = {m.key: dt.date.fromisoformat(m.date).toordinal() for m in out}
    return tuple(sorted(out, key=lambda m: (-days[m.key], -m.siblings, m.label)))


def _measure(names: Binder, keys: list[MeasureKey]) -> MeasureOption:
    snapshot, first = names.snapshot, keys[0]
    results = [k for k in keys if k.role == "result"]
    scores = _scores(names, results)
    stepped = next((k for k in results if k.score in STEPPED), None)
    subject = first.subject.name if first.subject else None
    papers = bool(snapshot.marked_forms(first.sitting.id))
    kinds = kinds_in(snapshot, first) if papers else []
    parts = [(kind, parts_of(snapshot, first, kind)) for kind in kinds]
    cuts = {
        cut.step: None
        for k in results
        for lines in cuts_by_year_level(snapshot, k).values()
        for cut in lines
    }
    same = [k for k in snapshot.measures if k.assessment == first.assessment]
    national = [
        k for k in results
        if snapshot.tables.national(k.assessment.name, subject, k.sitting.name, k.score)
    ]  # fmt: skip
    return MeasureOption(
        key=str(first.sitting.id),
        label=f"{first.about}, {first.sitting.name}",
        assessment_id=first.assessment.id,
        assessment=first.assessment.name,
        subject_id=first.subject.id if first.subject else None,
        subject=subject,
        sitting_id=first.sitting.id,
        sitting=first.sitting.name,
        date=str(first.date),
        n=max((s.n for s in scores), default=0),
        scores=scores,
        steps=list(stepped.steps) if stepped else [],
        cuts=list(cuts),
        forms=[f.name for f in first.forms],
        parts=[
            PartOption(kind=kind, names=found, ranked=_ranked(snapshot, first, found))
            for kind, found in parts
            if found
        ],
        claims=_claims(keys),
        has_figures=any(
            k.score not in STEPPED or any(p is not None for p in k.points) for k in results
        ),
        has_prior=_has_prior(names, results),
        has_earlier=any(
            k.subject == first.subject
            and k.date < first.date
            and k.role == "result"
            and of_same_students(snapshot, k, results[0])
            for k in same
        )
        if results
        else False,
        has_nation=bool(national),
        growth=_goals(names, results),
        has_later=any(later_tests(snapshot, plain(k)) for k in results if k.score in STEPPED),
        converts=[table.onto for k in results for table in conversions_for(snapshot, plain(k))],
        siblings=len({k.sitting.id for k in same if k.sitting.name == first.sitting.name}),
    )


def _scores(names: Binder, results: list[MeasureKey]) -> list[ScoreOption]:
    """Each kind of score, with how many of those on roll then have it."""
    snapshot, out = names.snapshot, []
    for k in results:
        roll = snapshot.roll_at(k.date)
        mine = np.ones(snapshot.students, bool) if roll is None else np.asarray(roll.school >= 0)
        n = int(np.count_nonzero(~np.isnan(snapshot.values(k)) & mine))
        out.append(ScoreOption(score=k.score, label=SCORE_NAMES[k.score], unit=UNITS[k.score], n=n))
    return out


def _ranked(snapshot: Snapshot, key: MeasureKey, names: list[str]) -> bool:
    """Whether a national table ranks one of the parts."""
    subject = key.subject.name if key.subject else None
    about = key.assessment.name, subject, key.sitting.name
    return any(
        table.percentiles
        for name in names
        for score in ("raw", "percent")
        for table in snapshot.tables.national(*about, score, name)
    )


def _claims(keys: list[MeasureKey]) -> list[ClaimOption]:
    found = {(k.role, k.kind): k for k in keys if k.role != "result"}
    return [
        ClaimOption(role=role, kind=kind or None, label=f"{kind} {role}".strip())
        for role, kind in found
    ]


def _goals(names: Binder, results: list[MeasureKey]) -> list[Goal]:
    """What the growth table knows of the way from the sitting before."""
    for own in (plain(k) for k in results):
        try:
            earlier = names.about(own).yardstick(SINCE, own)
        except (NotFound, InvalidQuestion):
            continue
        assert earlier is not None
        assert earlier.since is not None
        goals = goals_of(names.snapshot, own, earlier.since)
        if goals:
            return list(goals)
    return []


def _has_prior(names: Binder, results: list[MeasureKey]) -> bool:
    if not results:
        return False
    first = results[0]
    stepped = all(k.score in STEPPED for k in results)
    measure = q.Measure(
        assessment=first.assessment.id, sitting=first.sitting.id,
        subject=first.subject.id if first.subject else None,
    )  # fmt: skip
    try:
        return bool(declared_priors(names, names.quantity(measure, steps=stepped)))
    except (NotFound, InvalidQuestion):
        return False

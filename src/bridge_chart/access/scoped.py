"""What somebody with a scope gets: a snapshot that holds their students and nothing else.

Their students are those of their schools, or of the classes that they teach.

Whatever is asked of it (conditions, splits, groups, lists, names, ids) cannot see beyond, because
beyond is not in it; a school or student out of scope is found as little as one that does not
exist. Who is theirs, the *newest* version says, for every date and measure, whichever version is
asked: a roster that was wrong and undone opens nothing, however old the version.

- A roll shows who was theirs on its date, by the newest version and by its own.
- A result shows where its student was theirs at the sitting, or is today.
- Names of tests, subjects and characteristics are the district's words and stay; schools, classes,
  teachers, students and files are theirs alone.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
import sqlalchemy as sa
from cachetools import LRUCache

from bridge_chart.access.hidden_names import without_names
from bridge_chart.access.pairings import Paired, paired_for
from bridge_chart.access.rules import scope_for
from bridge_chart.access.sight import hidden_from
from bridge_chart.access.vintages import vintage_of
from bridge_chart.core.arrays import among
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import (
    NOBODY,
    Array,
    Characteristic,
    KeptCredits,
    MarkedForm,
    MeasureKey,
    Roll,
    SchoolClass,
    Snapshot,
    Written,
)
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.calendar import year_bounds
from bridge_chart.terms.people import Actor, Scope

NO_ROW = STATUSES.index("no_row")
MOST_COLUMNS = 256
VIEWER = "viewer"

_made: LRUCache[tuple[Any, ...], ScopedSnapshot] = LRUCache(24)
_making = Lock()


def seen_by(engine: sa.Engine, folder: Path, actor: Actor, version: int | None = None) -> Snapshot:
    """A version (None: the newest) as somebody may see it. The one way in for whatever answers."""
    snapshot = _of_scope(engine, folder, actor, version)
    return without_names(snapshot, actor.stand_ins) if actor.names_hidden else snapshot


def seen_by_who_sees_least(engine: sa.Engine, folder: Path, actor: Actor) -> Snapshot:
    """The newest version as somebody sees it, but for whoever sees all of it: they are shown what
    somebody is shown who sees nobody."""
    own = seen_by(engine, folder, actor)
    if beyond(own) is not None:
        return own
    newest = snapshot_of(engine, folder)
    return in_scope(newest, newest, Scope(frozenset()), hidden_from(engine, VIEWER))


def _of_scope(engine: sa.Engine, folder: Path, actor: Actor, version: int | None) -> Snapshot:
    scope, whole = scope_for(actor), snapshot_of(engine, folder, version)
    if scope.whole:
        return whole
    newest = whole if version is None else snapshot_of(engine, folder)
    taught = {
        identity for n in _taught(newest, scope)
        for identity in (newest.classes[n].id, *newest.classes[n].also)
    }  # fmt: skip
    beside = paired_for(engine, actor, taught)
    own = in_scope(whole, newest, scope, hidden_from(engine, actor.role), beside)
    own.vintages = lambda sittings: vintage_of(engine, folder, whole, sittings)
    return own


def in_scope(
    whole: Snapshot, newest: Snapshot, scope: Scope, hidden: frozenset[int] = frozenset(),
    beside: Paired = frozenset(),
) -> ScopedSnapshot:  # fmt: skip
    """A version cut to a scope. hidden: characteristics that the role does not see; beside: the
    classes that are paired with own ones."""
    key = (whole.folder, whole.identity, newest.identity, scope.key, hidden, beside)
    with _making:
        if key not in _made:
            _made[key] = ScopedSnapshot(whole, newest, scope, hidden, beside)
        return _made[key]


@dataclass(frozen=True)
class Beyond:
    """What lies outside of a scoped snapshot; `answers.published` alone may ask for it.

    whole: the version itself; at: (students of the scope,) their positions in it.
    """

    snapshot: ScopedSnapshot
    whole: Snapshot
    at: Array

    def of_vintage(self, sittings: tuple[int, ...]) -> Beyond:
        """The version whose fits on some sittings are shown; at: −1 for who is not in it."""
        whole = self.snapshot.vintages(tuple(sorted(set(sittings))))
        if whole.identity == self.whole.identity:
            return self
        ids, mine = np.asarray(whole.student_ids), np.asarray(self.snapshot.student_ids)
        at = np.minimum(np.searchsorted(ids, mine), len(ids) - 1)
        return replace(self, whole=whole, at=np.where(ids[at] == mine, at, NOBODY))

    def known(self, snapshot: Snapshot, measure: MeasureKey) -> Array:
        """(students of the whole,) bool: whose result in a measure the scope sees itself."""
        out = np.zeros(self.whole.students, bool)
        there = self.at >= 0
        out[self.at[there]] = snapshot.seen(measure)[there]
        return out


def beyond(snapshot: Snapshot) -> Beyond | None:
    """What a scoped snapshot was cut from; None for one that is whole."""
    if not isinstance(snapshot, ScopedSnapshot):
        return None
    return Beyond(snapshot, snapshot._whole, snapshot._at)


def _granted(snapshot: Snapshot, scope: Scope) -> list[int]:
    """The places of the schools that were granted."""
    granted = scope.schools or frozenset()
    return [n for n, school in enumerate(snapshot.schools) if granted & {*school.ids}]


def _taught(snapshot: Snapshot, scope: Scope) -> set[int]:
    """The places of the classes that the scope's teachers teach, of every school year."""
    if not scope.teachers:
        return set()
    merged = {school.id: school.ids for school in snapshot.schools}

    def theirs(one: SchoolClass) -> bool:
        names = [snapshot.staff[n] for n in one.teachers]
        return any((at, name) in scope.teachers for at in merged[one.school_id] for name in names)

    return {n for n, one in enumerate(snapshot.classes) if theirs(one)}


def theirs_on(roll: Roll, snapshot: Snapshot, scope: Scope) -> Array:
    """(students of the snapshot,) bool: who was in a school or class of the scope on a roll."""
    held = among(roll.school, _granted(snapshot, scope))
    taught = _taught(snapshot, scope)
    if taught:
        pairs = np.asarray(roll.members)
        held[pairs[among(pairs[:, 1], sorted(taught)), 0]] = True
    return held


class ScopedRoll(Roll):
    """A roll with those alone who were the scope's then."""

    def __init__(
        self, snapshot: ScopedSnapshot, base: Roll, key: str, held: Array, near: Array
    ) -> None:
        """held: (students,) the scope's then, by the newest version; near: today."""
        self.key = key
        self._snapshot, self._base, self._near = snapshot, base, near
        self.academic_year, self.since = base.academic_year, base.since
        there = np.asarray(base.school)[snapshot._at]
        self._held = held & theirs_on(base, snapshot._whole, snapshot.scope)[snapshot._at]
        place = np.full(len(snapshot._whole.schools) + 1, NOBODY, np.int16)
        place[snapshot._schools] = np.arange(len(snapshot._schools))
        self._school = np.where(self._held, place[there], NOBODY).astype(np.int16)
        self._there = there >= 0

    @property
    def school(self) -> Array:
        return self._school

    @property
    def somewhere(self) -> Array:
        return np.asarray(self._there & (self._held | self._near))

    @cached_property
    def year_level(self) -> Array:
        levels = np.asarray(self._base.year_level)[self._snapshot._at]
        return np.where(self._held, levels, NOBODY).astype(np.int8)

    @cached_property
    def members(self) -> Array:
        snapshot, pairs = self._snapshot, np.asarray(self._base.members)
        student, place = snapshot._place[pairs[:, 0]], snapshot._class_place[pairs[:, 1]]
        kept = (student >= 0) & (place >= 0)
        kept[kept] &= self._held[student[kept]]
        return np.stack([student[kept], place[kept]], axis=1)

    def characteristic(self, characteristic_id: int, students: int) -> Array:
        place = self._snapshot._options.get(characteristic_id)
        if place is None:
            return np.full(students, NOBODY, np.int16)
        return np.asarray(place[self.as_whole(characteristic_id)])

    def as_whole(self, characteristic_id: int) -> Array:
        """Option positions as the whole version has them."""
        whole = self._base.characteristic(characteristic_id, self._snapshot._whole.students)
        mine = np.asarray(whole)[self._snapshot._at]
        return np.where(self._held, mine, NOBODY)


class ScopedSnapshot(Snapshot):
    """One version, cut to a scope. Every array is over the scope's students."""

    def __init__(
        self, whole: Snapshot, newest: Snapshot, scope: Scope, hidden: frozenset[int],
        beside: Paired,
    ) -> None:  # fmt: skip
        self._whole, self._newest = whole, newest
        self.vintages: Callable[[tuple[int, ...]], Snapshot] = lambda _: whole
        self.scope, self.paired = scope, beside
        self.folder, self.version, self.identity = whole.folder, whole.version, whole.identity
        self.today, self.tables, self.erased = whole.today, whole.tables, whole.erased
        self.key = f"{whole.identity} by {newest.identity} for {scope.key} without {sorted(hidden)}"
        self.key += f" beside {sorted(beside)}" if beside else ""
        self._find_students()
        self._find_places()
        self.measures = [replace(m, set_aside=0) for m in whole.measures]
        self.credit_years = list(whole.credit_years)
        self._rolls: dict[str, ScopedRoll] = {}
        self._columns_kept: LRUCache[tuple[str, str], Array] = LRUCache(MOST_COLUMNS)
        self._lock = Lock()
        self._options: dict[int, Array] = {}
        self.characteristics = [
            self._with_own_options(c) for c in whole.characteristics if not hidden & {c.id, *c.also}
        ]

    def _with_own_options(self, item: Characteristic) -> Characteristic:
        """A characteristic with those values alone that some student of the scope has or had."""
        used = np.zeros(len(item.options) + 1, bool)
        for roll in self.rolls:
            assert isinstance(roll, ScopedRoll)
            used[roll.as_whole(item.id)] = True  # the last place is of those not known
        kept = np.flatnonzero(used[:-1])
        place = np.full(len(item.options) + 1, NOBODY, np.int16)
        place[kept] = np.arange(len(kept))
        self._options[item.id] = place
        return replace(item, options=tuple(item.options[n] for n in kept))

    def _find_students(self) -> None:
        """Who is the scope's by the newest version on any date."""
        newest = self._newest
        ever = np.zeros(newest.students, bool)
        self._held: dict[str, Array] = {}
        for roll in newest.rolls:
            self._held[roll.key] = theirs_on(roll, newest, self.scope)
            ever |= self._held[roll.key]
        ids, known = np.asarray(newest.student_ids)[ever], np.asarray(self._whole.student_ids)
        at = np.searchsorted(known, ids)
        there = at < len(known)
        there[there] &= known[at[there]] == ids[there]
        self._at = at[there].astype(np.int64)
        then = np.flatnonzero(ever)[there]
        self._held = {key: held[then] for key, held in self._held.items()}
        self.students = len(self._at)
        self._place = np.full(self._whole.students, NOBODY, np.int64)
        self._place[self._at] = np.arange(self.students)

    def _find_places(self) -> None:
        """Schools, classes and teachers of the scope; of a school where somebody only teaches,
        their own classes."""
        whole = self._whole
        granted = {whole.schools[n].id for n in _granted(whole, self.scope)}
        taught_there = _taught(whole, self.scope)
        held = [
            n for n, one in enumerate(whole.classes)
            if one.school_id in granted or n in taught_there
        ]  # fmt: skip
        theirs = granted | {whole.classes[n].school_id for n in held}
        mine = [n for n, school in enumerate(whole.schools) if school.id in theirs]
        self._schools = np.array(mine, np.int64)
        self.schools = [whole.schools[n] for n in mine]
        self._class_place = np.full(len(whole.classes), NOBODY, np.int64)
        self._class_place[held] = np.arange(len(held))
        taught = sorted({person for n in held for person in whole.classes[n].teachers})
        person = {old: new for new, old in enumerate(taught)}
        self.staff = [whole.staff[old] for old in taught]
        self.classes = [
            replace(whole.classes[n], teachers=tuple(person[t] for t in whole.classes[n].teachers))
            for n in held
        ]

    def _on(self, date: dt.date | None) -> Array:
        """(students,) bool: the scope's on a date, by the newest version."""
        roll = None if date is None else self._newest.roll_at(date)
        return np.zeros(self.students, bool) if roll is None else self._held[roll.key]

    def seen(self, measure: MeasureKey) -> Array:
        return self._on(measure.date) | self._on(self._newest.today)

    def roll_at(self, date: dt.date) -> Roll | None:
        base, newest = self._whole.roll_at(date), self._newest.roll_at(date)
        if base is None:
            return None
        key = f"{base.key} in {newest.key if newest else 'none'}"
        with self._lock:
            if key not in self._rolls:
                near = self._on(self._newest.today)
                self._rolls[key] = ScopedRoll(self, base, key, self._on(date), near)
            return self._rolls[key]

    @property
    def rolls(self) -> list[Roll]:  # type: ignore[override]
        return [roll for one in self._whole.rolls if (roll := self.roll_at(one.since)) is not None]

    def _own(self, column: Array) -> Array:
        return np.asarray(column)[self._at]

    @cached_property
    def student_ids(self) -> Array:
        return self._own(self._whole.student_ids)

    @cached_property
    def numbers(self) -> Array:
        return self._own(self._whole.numbers)

    @cached_property
    def given_names(self) -> Array:
        return self._own(self._whole.given_names)

    @cached_property
    def family_names(self) -> Array:
        return self._own(self._whole.family_names)

    @cached_property
    def birth_days(self) -> Array:
        return self._own(self._whole.birth_days)

    @cached_property
    def listed(self) -> Array:
        return self._own(self._whole.listed)

    @cached_property
    def aliases(self) -> dict[str, int]:
        told = {text: int(self._place[at]) for text, at in self._whole.aliases.items()}
        return {text: at for text, at in told.items() if at >= 0}

    @cached_property
    def files(self) -> dict[int, str]:  # type: ignore[override]
        """The files that some result of the scope came from."""
        used = {int(b) for m in self.measures for b in np.unique(self.origin(m)[0])}
        if self.credits is not None:
            used |= {int(b) for b in np.unique(self.credits.batch)}
        return {batch: name for batch, name in self._whole.files.items() if batch in used}

    def _cut(
        self, what: str, measure: MeasureKey, column: Callable[[], Array], nothing: float
    ) -> Array:
        """A measure's column with those alone whose result may be seen."""
        key = (what, measure.key)
        with self._lock:
            found: Array | None = self._columns_kept.get(key)
        if found is None:
            mine = self._own(column())
            found = np.where(self.seen(measure), mine, np.array(nothing, mine.dtype))
            found.flags.writeable = False
            with self._lock:
                self._columns_kept[key] = found
        return found

    def _values(self, measure: MeasureKey) -> Array:
        return self._cut("value", measure, lambda: self._whole.values(measure), np.nan)

    def status(self, measure: MeasureKey) -> Array:
        return self._cut("status", measure, lambda: self._whole.status(measure), NO_ROW)

    def form(self, measure: MeasureKey) -> Array:
        return self._cut("form", measure, lambda: self._whole.form(measure), 0)

    def tested_year_level(self, measure: MeasureKey) -> Array:
        """Of a result that may be seen, also where a roll of a school says it that may not be."""
        return self._cut("level", measure, lambda: self._tested(measure), NOBODY)

    def _tested(self, measure: MeasureKey) -> Array:
        said = np.asarray(self._whole.tested_year_level(measure))
        roll = self._whole.roll_at(measure.date)
        return said if roll is None else np.where(said >= 0, said, roll.year_level)

    def origin(self, measure: MeasureKey) -> tuple[Array, Array]:
        return (
            self._cut("batch", measure, lambda: self._whole.origin(measure)[0], 0),
            self._cut("line", measure, lambda: self._whole.origin(measure)[1], 0),
        )

    def _order(self, measure: MeasureKey) -> Array:
        place = self._place[np.asarray(self._whole.order(measure))]
        place = place[place >= 0]
        return np.asarray(place[self.seen(measure)[place]], np.int32)

    def marked_forms(self, sitting_id: int) -> list[MarkedForm]:
        measure = next((m for m in self.measures if m.sitting.id == sitting_id), None)
        if measure is None:
            return []
        seen = self.seen(measure)
        out = []
        for form in self._whole.marked_forms(sitting_id):
            place = self._place[np.asarray(form.at)]
            kept = place >= 0
            kept[kept] &= seen[place[kept]]
            choices = None if form.choices is None else np.asarray(form.choices)[kept]
            own = replace(
                form, at=place[kept], marks=np.asarray(form.marks)[kept], choices=choices,
                written=None if form.written is None else self._own_texts(form.written, seen),
            )  # fmt: skip
            out.append(own)
        return out

    @cached_property
    def credits(self) -> KeptCredits | None:
        """Records of the scope's students until the last school year in which they may be seen."""
        whole = self._whole.credits
        if whole is None:
            return None
        place = self._place[np.asarray(whole.student)]
        mine = np.flatnonzero(place >= 0)
        kept = np.zeros(len(place), bool)
        for year in self.credit_years:
            last = np.datetime64(year_bounds(year.sitting.name)[1]).astype(int)
            rows = mine[whole.day[mine] <= last]
            kept[rows] |= self.seen(year)[place[rows]]
        return whole.of(kept, place[kept])

    def _own_texts(self, written: Written, seen: Array) -> Written:
        place = self._place[np.asarray(written.at)]
        kept = place >= 0
        kept[kept] &= seen[place[kept]]
        texts = [written.text(int(n)).encode() for n in np.flatnonzero(kept)]
        ends = np.cumsum([len(text) for text in texts], dtype=np.int64)
        held = np.frombuffer(b"".join(texts), np.uint8)
        return Written(place[kept], np.asarray(written.question)[kept], ends, held)

"""What is published of the district, as a place of its own: a test, a year level, and the values of
one characteristic. The first page of whoever sees no student; others may look what that is.

Every figure is a cell of `answers.published.cells`, as of the newest release of its sitting. The
data lead, who sees all, is shown what somebody is shown who sees no student; whoever has a scope,
what may be shown to them.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import sqlalchemy as sa
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.releases import Published, published_for
from bridge_chart.access.rules import require
from bridge_chart.access.scoped import seen_by_who_sees_least
from bridge_chart.access.since import FEWEST
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.asking.binder import Binder
from bridge_chart.answers.asking.wider import STEPPED as STEPPED_SHOW
from bridge_chart.answers.asking.wider import Outlook, wider_of
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.split import one_row
from bridge_chart.answers.bound.view import Wider
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.rows import unjudged_row
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.published.names import tests_of, values_of
from bridge_chart.answers.published.rounded import coarse, step_for
from bridge_chart.core.describing.levels import level_shares
from bridge_chart.store.codes import STEPPED
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Value
from bridge_chart.terms.errors import InvalidQuestion, NotFound, NotPublished
from bridge_chart.terms.people import Actor
from bridge_chart.terms.words import spoken

ALL = "All students"


class PublishedTest(Value):
    """A kind of score of a sitting, and the year levels that sat it."""

    key: str
    test: str
    subject: str
    sitting: str
    date: str
    score: str
    label: str
    year_levels: list[int]


class PublishedBy(Value):
    id: int
    label: str


class PublishedPlace(Value):
    """What may be looked at; `released`: the newest release, none: nothing was released yet."""

    released: str | None
    title: str | None
    tests: list[PublishedTest]
    by: list[PublishedBy]


class PublishedAsked(BaseModel):
    """test: the key of one of those that are published; year_level: None: a row for each; by: a
    characteristic, within one year level."""

    model_config = ConfigDict(extra="forbid")
    test: str = Field(max_length=400)
    year_level: int | None = None
    by: int | None = None


class PublishedRow(Value):
    """All students of a year level, or those with one value. held: why it is not published; mean
    and interval of figures; shares of levels, to the nearest `step`, none: it would have to be too
    coarse. missing: None: it is small in some row."""

    label: str
    held: str | None = None
    n: int | None = None
    missing: int | None = None
    mean: float | None = None
    sd: float | None = None
    low: float | None = None
    high: float | None = None
    shares: list[float] = Field(default_factory=list)
    step: float | None = None


class PublishedFigures(Value):
    """Rows of one test and year level. `steps`: its levels, the lowest first; `as_of`: the day of
    the release that they are of."""

    label: str
    as_of: str | None
    steps: list[str]
    rows: list[PublishedRow]


def published_place(engine: sa.Engine, settings: Settings, actor: Actor) -> PublishedPlace:
    """What of the district may be looked at by whoever asks."""
    require(actor, "published")
    snapshot, published = _seen(engine, settings, actor)
    if not published.released:
        return PublishedPlace(released=None, title=None, tests=[], by=[])
    newest = published.released[-1].release
    known = {measure.key for measure in snapshot.measures}
    tests = [_test(key, levels) for key, levels in tests_of(published) if key.key in known]
    by = [PublishedBy(id=one.id, label=one.name) for one in snapshot.characteristics]
    return PublishedPlace(
        released=newest.day, title=newest.title, tests=tests, by=by
    )  # fmt: skip


def published_figures(
    engine: sa.Engine, settings: Settings, actor: Actor, asked: PublishedAsked
) -> PublishedFigures:
    """The published figures of a test: of each year level, or of one and its values of a
    characteristic; NotFound for a test, a year level or a characteristic that is not there,
    InvalidQuestion for a characteristic over all year levels."""
    place = published_place(engine, settings, actor)
    test = next((one for one in place.tests if one.key == asked.test), None)
    level = asked.year_level
    if test is None or level not in (None, *test.year_levels):
        raise NotFound("This is not published.", next_step="Choose one of those that are.")
    if asked.by is not None and asked.by not in {one.id for one in place.by}:
        raise NotFound("There is no such characteristic.")
    if asked.by is not None and level is None:
        raise InvalidQuestion(f"A characteristic is published within one {spoken().year_level}.",
                              next_step="Choose one.")  # fmt: skip
    snapshot, published = _seen(engine, settings, actor)
    # What was released stays as it is: it is worked out once for whoever sees as much.
    name = ("published", published.key, asked.model_dump_json(), spoken().model_dump_json())
    found: PublishedFigures = kept_for(
        snapshot, name, lambda: _figures(_One(snapshot, published, asked), test)
    )
    return found


def _figures(one: _One, test: PublishedTest) -> PublishedFigures:
    level, by = one.asked.year_level, one.asked.by
    if level is None:
        rows = [one.row(spoken().level_name(each), each) for each in test.year_levels]
    else:
        rows = [one.row(ALL, level)]
        values = values_of(one.published, by) if by is not None else []
        rows += [one.row(label, level, value) for label, value in values]
    return PublishedFigures(
        label=test.label, as_of=one.as_of, steps=list(one.quantity.steps),
        rows=without_small(rows),
    )  # fmt: skip


def without_small(rows: Sequence[PublishedRow]) -> list[PublishedRow]:
    """Rows without how many are missing, where that is small in one of them: what is left out of
    some could be worked out of the others.

    >>> rows = [PublishedRow(label="a", n=90, missing=12), PublishedRow(label="b", n=40, missing=2)]
    >>> [row.missing for row in without_small(rows)], without_small(rows[:1])[0].missing
    ([None, None], 12)
    """
    shown = [row for row in rows if row.held is None]
    if all((row.missing or 0) >= FEWEST for row in shown):
        return list(rows)
    return [row.model_copy(update={"missing": None}) for row in rows]


def lines_of_published(found: PublishedFigures) -> tuple[list[str], list[list[object]]]:
    """Heads and lines, at full precision."""
    figures = [] if found.steps else ["mean", "sd", "low", "high"]
    heads = ["students", "n", "missing", *figures, *found.steps, "held_back", "as_of"]
    lines: list[list[object]] = []
    for row in found.rows:
        shares: list[object] = [*row.shares] or [None] * len(found.steps)
        values = [getattr(row, one) for one in figures]
        lines.append([row.label, row.n, row.missing, *values, *shares, row.held, found.as_of])
    return heads, lines


class _One:
    """One test, for one asker."""

    def __init__(self, snapshot: Snapshot, published: Published, asked: PublishedAsked) -> None:
        self.asked, self.published = asked, published
        self.outlook = Outlook(bind, published)
        key = next(one for one in snapshot.measures if one.key == asked.test)
        what = _measure(key)
        self.quantity: Quantity = Binder(snapshot).quantity(what, steps=key.score in STEPPED)
        self.what = what
        self.as_of: str | None = None

    def row(self, label: str, level: int, value: int | None = None) -> PublishedRow:
        conditions: list[q.Condition] = [q.FieldIs(field="year_level", in_=(level,))]
        if value is not None:
            assert self.asked.by is not None
            conditions.append(q.CharacteristicIs(characteristic=self.asked.by, in_=(value,)))
        question = q.Question(
            who=q.Who(all_=tuple(conditions)), what=(self.what,),
            show=STEPPED_SHOW if self.quantity.steps else "table",
        )  # fmt: skip
        try:
            wide = wider_of(self.outlook, question, self.quantity, ())
        except NotPublished as error:
            return PublishedRow(label=label, held=error.message)
        self.as_of = wide.day
        return self._figures(label, wide)

    def _figures(self, label: str, wide: Wider) -> PublishedRow:
        out = outcome(wide.view)
        part = Slice(wide.view, out, wide.mask, one_row(wide.mask, "", ("district", 0), label),
                     released=wide.day)  # fmt: skip
        if self.quantity.steps:
            at = part.grouping.at
            place = np.nan_to_num(out.values[at], nan=0.0).astype(np.int64) - 1
            found = level_shares(place, part.grouping.code, 1, len(self.quantity.steps))
            n, step = int(found.n[0]), step_for(int(found.n[0]))
            shares = [] if step is None else coarse(found.share[0], step).tolist()
            return PublishedRow(label=label, n=n, missing=int(found.missing[0]), shares=shares,
                                step=step)  # fmt: skip
        row = unjudged_row(part)
        return PublishedRow(label=label, n=row.n, missing=row.missing, mean=row.mean, sd=row.sd,
                            low=row.low, high=row.high)  # fmt: skip


def _seen(engine: sa.Engine, settings: Settings, actor: Actor) -> tuple[Snapshot, Published]:
    """Whoever asks sees nothing beside what is published, or their own scope."""
    own = seen_by_who_sees_least(engine, settings.snapshots, actor)
    published = published_for(engine, settings.snapshots, own)
    assert published is not None
    return own, published


def _test(key: MeasureKey, levels: list[int]) -> PublishedTest:
    return PublishedTest(
        key=key.key, test=key.assessment.name, subject=key.subject.name if key.subject else "",
        sitting=key.sitting.name, date=str(key.date), score=key.score, year_levels=levels,
        label=", ".join(dict.fromkeys((key.assessment.name, key.about, key.sitting.name))),
    )  # fmt: skip


def _measure(key: MeasureKey) -> q.Measure:
    return q.Measure(
        assessment=key.assessment.id, sitting=key.sitting.id, score=key.score,
        subject=key.subject.id if key.subject else None,
    )  # fmt: skip

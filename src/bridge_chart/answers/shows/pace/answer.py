"""How many steps did they make, how much is that a year, and where does it end?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import Figures, figures_of
from bridge_chart.answers.figures.order import in_order
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.pinned import pinned_slices
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.movement.answer import BEFORE
from bridge_chart.answers.shows.pace.body import PaceBody, PaceOptions, PaceRow, StepsMade, Told
from bridge_chart.answers.shows.pace.words import pace_method, pace_readings
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.pace import Pace
from bridge_chart.answers.what.share import share_reaching
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark
from bridge_chart.terms.errors import InvalidQuestion, NotFound

SORTABLE = ("label", "n", "missing", "share", "steps", "value", "mean")
FURTHEST = 2
"""Steps are counted one by one up to this many, up and down; beyond they stand together."""


@dataclass(frozen=True)
class _Paced:
    """A part with what is worked out of it. steps: made since the earlier sitting, if levels are
    kept of both."""

    part: Slice
    steps: Quantity | None
    pace: Quantity
    ends: Quantity
    wanted: int


def pace_shown(parts: Sequence[Slice]) -> Shown:
    """One measure against an earlier sitting of it."""
    part = parts[0]
    view = part.view
    if view.yardstick is None or view.yardstick.since is None:
        raise InvalidQuestion(
            "Pace is since an earlier sitting.",
            next_step="Measure it against the sitting before.", instead={"against": BEFORE},
        )  # fmt: skip
    options = PaceOptions.model_validate(view.question.options)
    of = view.quantity.measure
    steps, lacks = _steps(view)
    paced = _Paced(
        part, steps, view.measured(q.Derived(derive="pace", of=of)),
        view.measured(q.Derived(derive="projected", of=of)), options.steps,
    )  # fmt: skip
    rows = _rows(paced, judged=True)
    district = [one for one in pinned_slices(part) if not one.released]
    pinned = [row for one in district for row in _rows(replace(paced, part=one), judged=False)]
    worked = paced.pace.worked
    assert isinstance(worked, Pace)
    sort = view.question.sort or (q.SortBy(by="share"),)
    body = PaceBody(
        show="pace", dimension=part.grouping.label, before=view.yardstick.since.key.sitting.name,
        now=view.quantity.key.sitting.name, first=worked.sittings[0].key.sitting.name,
        wanted=options.steps, unit=view.quantity.unit, reference=pinned, lacks=lacks,
        rows=in_order(rows, sort, SORTABLE, "Pace", _sorts),
    )  # fmt: skip
    covered = [coverage(view, part.people, part.out.reasons)]
    return Shown(
        body=body, coverage=covered, readings=pace_readings(body), method=pace_method(body),
        warnings=warnings_of([part], covered, []),
    )  # fmt: skip


def _steps(view: View) -> tuple[Quantity | None, list[str]]:
    """Steps made, of the levels of both sittings; where there are none, why."""
    assert view.yardstick is not None
    assert view.yardstick.since is not None
    since = view.yardstick.since.plain.measure
    assert isinstance(since, q.Measure)
    level = q.AgainstEarlier(earlier=q.EarlierSpec(measure=_in_levels(since)))
    own = view.quantity.plain.measure
    assert isinstance(own, q.Measure)
    made = q.Derived(derive="steps", of=_in_levels(own), against=level)
    try:
        return view.measured(made), []
    except (NotFound, InvalidQuestion) as error:
        return None, [f"no steps are counted: {error.message}"]


def _in_levels(measure: q.Measure) -> q.Measure:
    stepped = measure.score in ("level", "grade", "points")
    return measure if stepped else measure.model_copy(update={"score": "auto"})


def _sorts(row: PaceRow, column: str) -> object:
    if column in ("value", "mean"):
        return row.pace.mean
    return row.share if column == "share" and row.share is not None else (
        row.pace.mean if column == "share" else getattr(row, column)
    )  # fmt: skip


def _rows(paced: _Paced, *, judged: bool) -> list[PaceRow]:
    part = paced.part
    grouping = part.grouping
    pace, ends = _figures(part, paced.pace), _figures(part, paced.ends)
    made, share = None, None
    if paced.steps is not None:
        made = _with(part, paced.steps)
        share = _figures(part, share_reaching(paced.steps, float(paced.wanted)))
    out = []
    for n, group in enumerate(grouping.groups):
        mine = grouping.at[grouping.code == n]
        size = int(np.count_nonzero(part.out.reasons[mine] == 0))
        row = PaceRow(
            key=group.name, label=group.label, n=size, missing=len(mine) - size,
            pace=_told(pace, n), ends=_told(ends, n), pinned=not judged,
            opens=opens(part.view, group) if judged else None, overlap=grouping.overlaps,
            undefined=None if size >= FEWEST_TO_SHOW else "too_few",
        )  # fmt: skip
        held = _held(made, mine)
        if paced.steps is not None and share is not None and len(held) >= FEWEST_TO_SHOW:
            row = row.model_copy(update={
                "stepped": len(held), "steps": float(held.mean()),
                "made": _made(row, held, paced.steps),
                "enough": _enough(row, held, paced.steps, paced.wanted),
                "share": _share(share.values.mean[n]),
                "low": _share(share.interval.low[n]), "high": _share(share.interval.high[n]),
            })  # fmt: skip
        out.append(row)
    return out


def _held(made: Slice | None, mine: Integers) -> Floats:
    """The steps of those who have both levels."""
    if made is None:
        return np.empty(0)
    values = made.out.values[mine]
    return np.asarray(values[~np.isnan(values)])


def _made(row: PaceRow, held: Floats, steps: Quantity) -> list[StepsMade]:
    """So many and one by one; marks where the row has one."""
    out = []
    for step in range(-FURTHEST, FURTHEST + 1):
        bound = {"from": step} if step == FURTHEST else {"to": step} if step == -FURTHEST else {
            "from": step, "to": step
        }  # fmt: skip
        lowest, highest = bound.get("from", -np.inf), bound.get("to", np.inf)
        n = int(np.count_nonzero((held >= lowest) & (held <= highest)))
        opened = _narrowed(row, steps, **bound) if n else None
        out.append(StepsMade(n=n, steps=step, share=n / len(held), opens=opened))
    return out


def _enough(row: PaceRow, held: Floats, steps: Quantity, wanted: int) -> Mark:
    n = int(np.count_nonzero(held >= wanted))
    return Mark(n=n, opens=_narrowed(row, steps, **{"from": wanted}) if n else None)


def _narrowed(row: PaceRow, steps: Quantity, **bound: float) -> q.Open | None:
    if row.opens is None:
        return None
    held = q.MeasureIs.model_validate({"measure": steps.measure, **bound})
    return row.opens.model_copy(update={"add": (*row.opens.add, held)})


def _figures(part: Slice, quantity: Quantity) -> Figures:
    made = _with(part, quantity)
    return figures_of(made.view, made.out, made.grouping, quartiles=False)


def _with(part: Slice, quantity: Quantity) -> Slice:
    view = _view(part.view, quantity)
    return replace(part, view=view, out=outcome(view))


def _view(view: View, quantity: Quantity) -> View:
    bound = view.elsewhere
    return replace(
        view, quantity=quantity, yardstick=None,
        elsewhere=None if bound is None else lambda other: _view(bound(other), quantity),
    )  # fmt: skip


def _told(figures: Figures, n: int) -> Told:
    size = int(figures.values.n[n])
    if size < FEWEST_TO_SHOW:
        return Told(n=size)
    mean, low, high = figures.span[n], figures.interval.low[n], figures.interval.high[n]
    return Told(n=size, mean=_plain(mean), low=_plain(low), high=_plain(high))


def _plain(value: float) -> float | None:
    return None if value != value else float(value)


def _share(percent: float) -> float | None:
    return None if percent != percent else float(percent) / 100

"""How far did they move between levels, and what credit is that worth beside similar starters?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.against.prior import WhereTheyStarted
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import figures_of
from bridge_chart.answers.figures.order import in_order
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.pinned import pinned_slices
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.movement.body import (
    CreditPart,
    Flow,
    LevelThen,
    MovementBody,
    MovementOptions,
    MovementRow,
    RuleTold,
)
from bridge_chart.answers.shows.movement.by_error import credit_by_error
from bridge_chart.answers.shows.movement.words import movement_method, movement_readings
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.credit import Rule, places, rule_named, rules_for
from bridge_chart.answers.what.derived import credit_of
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.growth.movement import movement
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark, Row
from bridge_chart.terms.errors import InvalidQuestion

BEFORE = {"earlier": {"measure": {"assessment": "same", "subject": "same", "sitting": {"back": 1}}}}
SORTABLE = ("label", "n", "missing", "credit", "span", "value", "mean")


@dataclass(frozen=True)
class _Moved:
    """A part with what it was before. now, then: (students,) places of levels, −1 = none; alone:
    (students,) the credit of error alone, NaN = not known."""

    part: Slice
    earlier: Quantity
    rule: Rule
    now: Integers
    then: Integers
    alone: Floats


def movement_shown(parts: Sequence[Slice]) -> Shown:
    """One measure in levels against an earlier sitting of it."""
    part = parts[0]
    view = part.view
    if view.yardstick is None or view.yardstick.since is None:
        raise InvalidQuestion(
            "Movement is from an earlier sitting to this one.",
            next_step="Measure it against the sitting before.", instead={"against": BEFORE},
        )  # fmt: skip
    options = MovementOptions.model_validate(view.question.options)
    earlier = view.yardstick.since
    if earlier.steps != view.quantity.steps:
        raise InvalidQuestion(
            f"{earlier.label} has other levels than {view.quantity.label}, so nobody can be said "
            "to have risen or held.",
            next_step="Choose an earlier sitting in the same levels.",
        )
    rule = rule_named(view.snapshot, view.quantity, options.rule)
    alone, because = credit_by_error(view.snapshot, earlier, rule)
    now, then = places(view.snapshot, view.quantity), places(view.snapshot, earlier)
    moved = _Moved(part, earlier, rule, now, then, alone)
    body = _body(moved, because)
    return Shown(
        body=body,
        coverage=[coverage(view, part.people, part.out.reasons)],
        readings=movement_readings(body, view.quantity.pass_at),
        method=movement_method(body, rule, view.quantity.steps),
        warnings=warnings_of([part], [coverage(view, part.people, part.out.reasons)], []),
    )


def _body(moved: _Moved, because: str) -> MovementBody:
    part = moved.part
    view, steps = part.view, part.view.quantity.steps
    at = np.unique(part.grouping.at)
    at = at[part.out.reasons[at] == 0]
    found = movement(moved.then[at], moved.now[at], len(steps))
    rows = _rows(moved, judged=True)
    sort = view.question.sort or (q.SortBy(by="span"),)
    district = [one for one in pinned_slices(part) if not one.released]
    pinned = [row for one in district for row in _rows(replace(moved, part=one), judged=False)]
    return MovementBody(
        show="movement", dimension=part.grouping.label, before=moved.earlier.key.sitting.name,
        now=view.quantity.key.sitting.name,
        then_in=_levels(moved, found.counts.sum(axis=1), then=True),
        now_in=_levels(moved, found.counts.sum(axis=0), then=False),
        flows=_flows(moved, found.counts), rule=moved.rule.name, rules=_rules(moved, at),
        up=Mark(n=found.up), same=Mark(n=found.same), down=Mark(n=found.down),
        rows=in_order(rows, sort, SORTABLE, "Movement", _sorts), reference=pinned,
        alone_because=because,
    )  # fmt: skip


def _sorts(row: MovementRow, column: str) -> object:
    return getattr(row, "credit" if column in ("value", "mean") else column)


def _was(moved: _Moved, step: int) -> q.MeasureIs:
    """Who was in a level."""
    return q.MeasureIs(measure=moved.earlier.measure, level=(moved.earlier.steps[step],))


def _levels(moved: _Moved, counts: Integers, *, then: bool) -> list[LevelThen]:
    view, both = moved.part.view, _both(moved)
    steps, pass_at = view.quantity.steps, view.quantity.pass_at
    told = []
    for n, (name, count) in enumerate(zip(steps, counts.tolist(), strict=True)):
        mark = q.Open(add=(*both, *((_was(moved, n),) if then else ())), what=view.stands,
                      level=() if then else (name,))  # fmt: skip
        passes = pass_at is not None and n >= pass_at
        told.append(LevelThen(n=count, name=name, passes=passes, opens=mark if count else None))
    return told


def _both(moved: _Moved) -> tuple[q.Condition, ...]:
    """Of those with both results: in some level then, and in some level now."""
    steps = moved.part.view.quantity.steps
    return (
        q.MeasureIs(measure=moved.earlier.measure, level=moved.earlier.steps),
        q.MeasureIs(measure=moved.part.view.quantity.measure, level=steps),
    )


def _flows(moved: _Moved, counts: Integers) -> list[Flow]:
    view, steps = moved.part.view, moved.part.view.quantity.steps
    return [
        Flow(
            n=int(counts[before, now]), before=int(before), now=int(now),
            credit=float(moved.rule.credit[before, now]),
            opens=q.Open(add=(_was(moved, int(before)),), what=view.stands,
                         level=(steps[int(now)],)),
        )
        for before, now in zip(*np.nonzero(counts), strict=True)
    ]  # fmt: skip


def _rules(moved: _Moved, at: Integers) -> list[RuleTold]:
    """What everybody here earns by each rule."""
    view = moved.part.view
    out = []
    for rule in rules_for(view.snapshot, view.quantity):
        held = (moved.then[at] >= 0) & (moved.now[at] >= 0)
        credit = rule.credit[moved.then[at][held], moved.now[at][held]]
        n = len(credit)
        out.append(
            RuleTold(
                name=rule.name,
                full=float((credit == 1).mean()) if n else None,
                part=float(((credit > 0) & (credit < 1)).mean()) if n else None,
                credit=float(credit.mean()) if n else None,
            )
        )
    return out


def _rows(moved: _Moved, *, judged: bool) -> list[MovementRow]:
    """A row per group, unsorted; a pinned one is compared with nobody and opens nobody."""
    part = moved.part
    assert part.view.yardstick is not None
    credit = credit_of(part.view.quantity, part.view.yardstick, moved.rule)
    plain = _with(part, credit, None)
    figures = figures_of(plain.view, plain.out, plain.grouping, quartiles=False)
    beside = rows_of(_with(part, credit, _similar(credit, moved.earlier))) if judged else None
    own = np.where(part.out.reasons == 0, plain.out.values, np.nan)
    out = []
    for n, group in enumerate(part.grouping.groups):
        mine = part.grouping.at[part.grouping.code == n]
        values, size = own[mine], int(np.count_nonzero(~np.isnan(own[mine])))
        row = MovementRow(
            key=group.name, label=group.label, n=size, missing=len(mine) - size,
            full=CreditPart(n=int((values == 100).sum())),
            part=CreditPart(n=int(((values > 0) & (values < 100)).sum())),
            none=CreditPart(n=int((values == 0).sum())),
            opens=opens(part.view, group) if judged else None, pinned=not judged,
            overlap=part.grouping.overlaps,
            undefined=None if size >= FEWEST_TO_SHOW else "too_few",
        )  # fmt: skip
        if size >= FEWEST_TO_SHOW:
            interval = figures.interval
            told = {
                "credit": float(values[~np.isnan(values)].mean()) / 100,
                "low": _share(interval.low[n]), "high": _share(interval.high[n]),
                "alone": _alone(moved, mine),
                **({} if beside is None else _standing(beside[n])),
            }  # fmt: skip
            row = row.model_copy(update={**told, **_parts(moved, row, credit, judged=judged)})
        out.append(row)
    return out


def _with(part: Slice, credit: Quantity, yardstick: WhereTheyStarted | None) -> Slice:
    view = _view(part.view, credit, yardstick)
    return replace(part, view=view, out=outcome(view))


def _view(view: View, credit: Quantity, yardstick: WhereTheyStarted | None) -> View:
    bound = view.elsewhere
    return replace(
        view, quantity=credit, yardstick=yardstick,
        elsewhere=None if bound is None else lambda other: _view(bound(other), credit, yardstick),
    )  # fmt: skip


def _similar(credit: Quantity, earlier: Quantity) -> WhereTheyStarted:
    """The mean credit of those who were in the same level, apart in each year level."""
    spec = q.PriorSpec(priors=(earlier.measure,), expect="equal_scores")
    asked = q.AgainstPrior(prior=spec)
    return WhereTheyStarted(credit, asked, (earlier,), "equal_scores", credit)


def _standing(row: Row) -> dict[str, object]:
    span = _share(row.span)
    return {
        "similar": _share(row.yardstick), "span": span,
        "span_low": _share(row.low), "span_high": _share(row.high), "verdict": row.verdict,
    }  # fmt: skip


def _alone(moved: _Moved, mine: Integers) -> float | None:
    """Of those with both results; none where it is not known of nearly all."""
    counted = mine[moved.part.out.reasons[mine] == 0]
    known = moved.alone[counted]
    known = known[~np.isnan(known)]
    return float(known.mean()) if len(known) > 0.9 * len(counted) else None


def _parts(
    moved: _Moved, row: MovementRow, credit: Quantity, *, judged: bool
) -> dict[str, CreditPart]:
    measure = credit.measure
    told: dict[str, q.Condition] = {
        "full": q.MeasureIs.model_validate({"measure": measure, "from": 100}),
        "part": q.MeasureIs.model_validate({"measure": measure, "above": 0, "below": 100}),
        "none": q.MeasureIs.model_validate({"measure": measure, "from": 0, "to": 0}),
    }  # fmt: skip
    out = {}
    for name, condition in told.items():
        held: CreditPart = getattr(row, name)
        mark = None
        if judged and row.opens is not None and held.n:
            mark = row.opens.model_copy(update={"add": (*row.opens.add, condition)})
        share, low, high = (float(x[0]) for x in wilson(np.array([held.n]), np.array([row.n])))
        told_of = {"share": share, "low": low, "high": high, "opens": mark}
        out[name] = held.model_copy(update=told_of)
    return out


def _share(percent: float | None) -> float | None:
    return None if percent is None or percent != percent else float(percent) / 100

"""The figures of every group of a split: description, span, interval."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.ground import Ground, on_ground
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.figures.sample import sample_of
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.values import as_kept, figures_of_students
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.contrasts.rows import Contrasts, Elsewhere, against_fit, against_rest, alone
from bridge_chart.core.describing.describe import Moments, Ranks, describe, moments, ranked
from bridge_chart.core.describing.shares import wilson

CLASS_OF = 25.0
"""Students of a class elsewhere, of which only mean and spread are published."""


@dataclass(frozen=True)
class Interval:
    """kind: “classes” where what classes add is in it, “students” where a row is one class of a
    school, “share” for Wilson's of a share; all (groups,)."""

    se: Floats
    df: Floats
    low: Floats
    high: Floats
    p: Floats
    kind: list[str]


@dataclass(frozen=True)
class Figures:
    """Every figure of every group, as arrays of shape (groups,). contrast: of what is drawn."""

    values: Moments
    span: Floats
    yardstick: Floats
    interval: Interval
    contrast: Contrasts


def figures_of(view: View, out: Outcome, grouping: Grouping, *, quartiles: bool) -> Figures:
    """Work out the groups of a split; quartiles only where they are shown, for they cost most."""
    groups, at, code = len(grouping.groups), grouping.at, grouping.code
    values: Moments
    if quartiles:
        values = describe(out.values[at], code, groups, ranks=_ranks(view).of(at))
    else:
        values = moments(out.values[at], code, groups)
    found = drawn(view, out, grouping)
    if out.group is not None:
        return Figures(values, found.value, values.mean - found.value, _interval(found), found)
    spans = values if out.held is None else moments(out.drawn[at], code, groups)
    yardstick = values.mean - spans.mean if out.held is not None else spans.mean * np.nan
    interval = _interval(found, spans.mean)
    if (view.quantity.is_share or view.quantity.is_credit) and out.held is None:
        interval = _of_share(spans, found)
    return Figures(values, spans.mean, yardstick, interval, found)


def drawn(view: View, out: Outcome, grouping: Grouping) -> Contrasts:
    """What each row's span could have been with another like cohort of these schools."""
    at, code, groups = grouping.at, counted_code(out, grouping), len(grouping.groups)
    if out.held is not None and out.held.fit is not None:

        def read(ground: Ground, places: Integers) -> Contrasts:
            assert ground.strata is not None
            there, held = placed(places, at, code)
            return against_fit(ground.sample, there, held, groups, ground.strata)

        return on_ground(view, read)
    sample = sample_of(view, out)
    if out.group is None:
        return alone(sample, at, code, groups)
    beyond = out.elsewhere
    others = None if beyond is None else Elsewhere(beyond.n, beyond.mean, beyond.sd, CLASS_OF)
    return against_rest(sample, at, code, groups, out.group, others)


def counted_code(out: Outcome, grouping: Grouping) -> Integers:
    """(memberships,) the row of those who are counted, −1 of others."""
    held = ~np.isnan(out.drawn[grouping.at])
    return np.where(held, grouping.code, -1).astype(np.int64)


def placed(places: Integers, at: Integers, code: Integers) -> tuple[Integers, Integers]:
    """Memberships by where the students stand on the ground; nobody who does not."""
    there = places[at]
    return np.maximum(there, 0), np.where(there >= 0, code, -1)


def _ranks(view: View) -> Ranks:
    """The measure's ranks over all students, from its kept order."""
    snapshot, quantity = view.snapshot, view.quantity
    order = snapshot.order(view.measure) if as_kept(quantity) else None
    return kept_for(
        snapshot, ("ranks", quantity.id),
        lambda: ranked(figures_of_students(snapshot, quantity), order),
    )  # fmt: skip


def _interval(found: Contrasts, centre: Floats | None = None) -> Interval:
    """The interval of a contrast, about the row's own figure."""
    value = found.value if centre is None else centre
    margin = (found.high - found.low) / 2
    kind = ["classes" if spread > 0 else "students" for spread in np.nan_to_num(found.classes)]
    return Interval(found.se, found.df, value - margin, value + margin, found.p, kind)


def _of_share(spans: Moments, found: Contrasts) -> Interval:
    """Shares have Wilson's interval, as in Levels: one of nobody or everybody is as uncertain as
    its size, and none leaves 0 to 100. Classes make it wider: it is that of fewer students."""
    share = np.nan_to_num(spans.mean) / 100
    # Where everybody or nobody of the district has it, nothing is known of what classes add.
    effective = np.where(np.isnan(found.n_effective), spans.n, found.n_effective)
    df = np.where(np.isnan(found.df), np.inf, found.df)
    _, low, high = wilson(np.rint(share * spans.n), spans.n, effective=effective, df=df)
    with np.errstate(invalid="ignore", divide="ignore"):
        se = 100 * np.sqrt(share * (1 - share) / effective)
    return Interval(se, df, 100 * low, 100 * high, found.p, ["share"] * len(share))

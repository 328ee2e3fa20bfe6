"""What the yardstick says of levels: the share that similar starters reach, that the targets name,
that the nation has, counted over the same students."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.against.fit import expectation
from bridge_chart.answers.against.prior import WhereTheyStarted
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.what.nation import tables_for
from bridge_chart.answers.what.share import share_from
from bridge_chart.core.arrays import Floats
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms.answer import Row


@dataclass(frozen=True)
class ByYardstick:
    """above: (groups, steps) the share at or above each step by the yardstick, NaN where it is not
    known of all counted; rows: how the share that passes stands to it, where it is a start."""

    above: Floats
    rows: list[Row] | None


def by_yardstick(part: Slice) -> ByYardstick | None:
    """None where the yardstick says nothing of levels."""
    told = _of_students(part)
    if told is None:
        return None
    grouping, counted = part.grouping, part.out.reasons == 0
    steps = len(part.view.quantity.steps)
    above = np.full((len(grouping.groups), steps), np.nan)
    for n in range(len(grouping.groups)):
        mine = grouping.at[grouping.code == n]
        mine = mine[counted[mine]]
        if len(mine) >= FEWEST_TO_SHOW and not np.isnan(told[mine]).any():
            above[n] = np.clip(told[mine].mean(axis=0), 0.0, 1.0)
    return ByYardstick(above, _rows(part))


def _of_students(part: Slice) -> Floats | None:
    """(students, steps) how likely each is at or above each step, by the yardstick."""
    view, held = part.view, part.view.yardstick
    quantity, snapshot = view.quantity, view.snapshot
    if held is None or held.is_group or quantity.worked is not None:
        return None
    steps = len(quantity.steps)
    out = np.ones((snapshot.students, steps))
    if isinstance(held, WhereTheyStarted):
        for step in range(1, steps):
            fit = expectation(snapshot, share_from(quantity, step), held.starts, "spline")
            out[:, step] = fit.expected / 100
        return out
    if held.kind == "nation":
        return _nations(view)
    places = part.out.held
    if places is None or held.in_figures.id != quantity.id or held.kind == "growth_table":
        return None
    claim = np.asarray(places.expected)
    for step in range(steps):
        out[:, step] = np.where(np.isnan(claim), np.nan, claim >= step + 1)
    return out


def _nations(view: View) -> Floats | None:
    """The nation's shares for each student's form and year level."""
    names = view.quantity.steps
    out = np.full((view.snapshot.students, len(names)), np.nan)
    for rows, table in tables_for(view.snapshot, view.measure, view.measure.score):
        if all(name in table.shares for name in names):
            share = np.array([table.shares[name] for name in names])
            out[rows] = share[::-1].cumsum()[::-1] / share.sum()
    return None if np.isnan(out).all() else out


def _rows(part: Slice) -> list[Row] | None:
    """The share that passes against similar starters', with its interval and verdict."""
    view, held = part.view, part.view.yardstick
    passed = view.quantity.pass_at
    if not isinstance(held, WhereTheyStarted) or not passed:
        return None
    share = share_from(view.quantity, passed)
    similar = WhereTheyStarted(share, held.asked, held.starts, "spline", share)
    view = _view(view, similar)
    return rows_of(replace(part, view=view, out=outcome(view)))


def _view(view: View, similar: WhereTheyStarted) -> View:
    bound = view.elsewhere
    return replace(
        view, quantity=similar.own, yardstick=similar,
        elsewhere=None if bound is None else lambda other: _view(bound(other), similar),
    )  # fmt: skip

"""Levels: the share of each group in every level or grade, around the pass line."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from bridge_chart.answers.bound.split import Group, Grouping
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.order import in_order, sort_key
from bridge_chart.answers.figures.pinned import pinned_slices
from bridge_chart.answers.figures.rows import path_of, row_key
from bridge_chart.answers.figures.several import several_of
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.levels.body import LevelsBody, LevelsRow, StepInfo
from bridge_chart.answers.shows.levels.expected import ByYardstick, by_yardstick
from bridge_chart.answers.shows.levels.passing import Passing, passing_of
from bridge_chart.answers.shows.levels.words import level_method, level_readings
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.mastered import share_mastered
from bridge_chart.answers.what.nation import tables_for
from bridge_chart.answers.what.values import sibling
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.describing.levels import level_shares
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark
from bridge_chart.terms.errors import InvalidQuestion

SORTABLE = ("label", "n", "missing", "pass_share", "span", "value", "mean")
"""The last three are the share that passed: what a comparison sorts by is kept from lens to
lens."""


def levels_shown(parts: Sequence[Slice]) -> Shown:
    """Counts and shares of every group and quantity."""
    steps = parts[0].view.quantity.steps
    if any(part.view.quantity.steps != steps for part in parts):
        raise InvalidQuestion(
            "These measures have different scales, so their steps cannot stand side by side.",
            next_step="Take measures with one scale.",
        )
    body = _body(parts)
    covered = [coverage(part.view, part.people, part.out.reasons) for part in parts]
    return Shown(
        body=body,
        coverage=covered,
        readings=level_readings(parts, body),
        method=level_method(parts[0].view),
        warnings=warnings_of(parts, covered, [], district=True),
    )


def _body(parts: Sequence[Slice]) -> LevelsBody:
    several, view = len(parts) > 1, parts[0].view
    passing: Sequence[Passing | None] = passing_of(parts) or [None] * len(parts)
    beside_of = [by_yardstick(part) for part in parts]
    rows = [
        _beside(row, n, told)
        for part, one, told in zip(parts, passing, beside_of, strict=True)
        for n, row in enumerate(_rows(part, part.grouping, one, several=several))
    ]
    pinned = [row for part in parts for row in _pinned(part)]
    dimension, within = parts[0].grouping.label, parts[0].grouping.within or None
    if several:
        beside = several_of(parts)
        rows, pinned = list(map(beside.called, rows)), list(map(beside.called_pinned, pinned))
        dimension, within = beside.dimensions
        if view.question.sort:
            rows = _sorted(rows, view.question.sort)
        elif beside.split and not beside.outside:
            rows.sort(key=lambda row: (sort_key(row.path[0].label), row.measure))
    else:
        rows = _sorted(rows, view.question.sort or (q.SortBy(by="pass_share"),))
    pass_at = view.quantity.pass_at
    steps = [
        StepInfo(name=name, passes=pass_at is not None and n >= pass_at)
        for n, name in enumerate(view.quantity.steps)
    ]
    return LevelsBody(
        show="levels", dimension=dimension, within=within, steps=steps, pass_at=pass_at,
        drawn=view.quantity.id.line is not None or view.quantity.worked is not None,
        against=_against(parts) if any(beside_of) else None,
        rows=rows, reference=pinned,
    )  # fmt: skip


def _against(parts: Sequence[Slice]) -> str | None:
    held = parts[0].view.yardstick
    return None if held is None else held.whom


def _beside(row: LevelsRow, n: int, told: ByYardstick | None) -> LevelsRow:
    """A row with what the yardstick says of its levels; the verdict is of that, where it is a
    start."""
    if told is None or row.undefined or np.isnan(told.above[n]).any():
        return row
    more: dict[str, Any] = {"by_yardstick": _plain(told.above[n])}
    if told.rows is not None:
        one = told.rows[n]
        more |= {"span": one.span, "span_low": one.low, "span_high": one.high}
        more["verdict"] = one.verdict
    return row.model_copy(update=more)


def _sorted(rows: Sequence[LevelsRow], sort: Sequence[q.SortBy]) -> list[LevelsRow]:
    def value(row: LevelsRow, column: str) -> object:
        return getattr(row, "pass_share" if column in ("span", "value", "mean") else column)

    return in_order(rows, sort, SORTABLE, "Levels", value)


def _rows(
    part: Slice, grouping: Grouping, passing: Passing | None, *, several: bool
) -> list[LevelsRow]:
    """Counts and shares of every group."""
    view, out = part.view, part.out
    at, code, groups = grouping.at, grouping.code, len(grouping.groups)
    steps = len(view.quantity.steps)
    place = np.nan_to_num(out.values[at], nan=0.0).astype(np.int64) - 1
    shares = level_shares(place, code, groups, steps)
    means = _means(part, grouping)
    pass_at = view.quantity.pass_at
    rows = []
    for n, item in enumerate(grouping.groups):
        shown = int(shares.n[n]) >= FEWEST_TO_SHOW
        passed = pass_at if shown else None
        counts = shares.counts[n].tolist()
        rows.append(
            LevelsRow(
                key=row_key(item, view, several=several),
                label=item.label,
                path=path_of(item, view, several=several),
                measure=view.at,
                n=int(shares.n[n]),
                missing=int(shares.missing[n]),
                counts=counts if shown else [],
                bars=_bars(view, item, counts) if shown else [],
                share=_plain(shares.share[n]) if shown else [],
                at_or_above=_plain(shares.at_or_above[n]) if shown else [],
                pass_count=None if passed is None else sum(counts[passed:]),
                pass_share=_at(shares.at_or_above[n], passed),
                **(_standing(passing, n, view) if passed is not None else {}),
                means={k: (v[n] if v[n] == v[n] else None) for k, v in means.items()}
                if shown else {},
                overlap=grouping.overlaps,
                undefined=None if shown else "too_few",
                opens=opens(view, item),
            )
        )  # fmt: skip
    return rows


def _bars(view: View, group: Group, counts: Sequence[int]) -> list[Mark]:
    """A mark for each step of a row."""
    row = opens(view, group)
    return [
        Mark(n=count, opens=row.model_copy(update={"level": (name,)}) if count else None)
        for name, count in zip(view.quantity.steps, counts, strict=True)
    ]


def _plain(values: np.ndarray) -> list[float | None]:
    return [None if x != x else float(x) for x in values]


def _at(values: np.ndarray, place: int | None) -> float | None:
    return None if place is None or values[place] != values[place] else float(values[place])


def _standing(passing: Passing | None, n: int, view: View) -> dict[str, Any]:
    """A share's interval and how it stands to the others'; their share is not said where they are
    others' students."""
    if passing is None:
        return {}
    told: dict[str, Any] = {"pass_low": passing.low[n], "pass_high": passing.high[n]}
    if view.snapshot.scope.whole:
        found = passing.others
        told |= {
            "others": found.value[n], "others_low": found.low[n], "others_high": found.high[n],
        }  # fmt: skip
    told = {key: float(value) if value == value else None for key, value in told.items()}
    return {**told, "verdict": passing.verdict[n]}


def _means(part: Slice, grouping: Grouping) -> dict[str, list[float]]:
    """The mean of the same sitting's score in figures, and of the standards mastered, where it has
    them."""
    if part.view.measure.role != "result":
        return {}
    other = sibling(part.view.snapshot, part.view.measure, IN_FIGURES)
    told = {} if other is None else {other.score: part.view.snapshot.values(other)}
    mastered = share_mastered(part.view.snapshot, part.view.measure)
    if mastered is not None:
        told["mastered"] = mastered
    return {
        name: moments(np.asarray(values)[grouping.at], grouping.code, len(grouping.groups))
        .mean.tolist()
        for name, values in told.items()
    }  # fmt: skip


def _pinned(part: Slice) -> list[LevelsRow]:
    """The pinned rows of a quantity: aggregates, never openable."""
    rows = []
    for one in pinned_slices(part):
        passing = next(iter(passing_of([one])), None)
        row = _rows(one, one.grouping, passing, several=False)[0]
        told: dict[str, object] = {
            "pinned": True,
            "opens": None,
            "bars": [],
            "measure": part.view.at,
        }
        told |= dict.fromkeys(("others", "others_low", "others_high")) | {"verdict": "none"}
        told["as_of"] = one.released
        if one.released:
            told["means"] = {}
        rows.append(row.model_copy(update=told))
    if "nation" in part.view.question.reference:
        row_of_nation = nation_row(part)
        if row_of_nation is not None:
            rows.append(row_of_nation)
    return rows


def nation_row(part: Slice) -> LevelsRow | None:
    """The nation's shares for those counted: each student's form and year level is looked up, and
    the shares are averaged over the students; None without a table."""
    view, out = part.view, part.out
    steps = view.quantity.steps
    at = part.grouping.at[out.reasons[part.grouping.at] == 0]
    weight, sums, size = 0.0, np.zeros(len(steps)), float("nan")
    for rows, table in tables_for(view.snapshot, view.measure, view.measure.score):
        if not all(name in table.shares for name in steps):
            continue
        counted = float(np.count_nonzero(rows[at]))
        sums += counted * np.array([table.shares[name] for name in steps])
        weight += counted
        if table.n:
            size = table.n if size != size else min(size, table.n)
    if not weight:
        return None
    share = sums / weight
    above = share[::-1].cumsum()[::-1]
    passed = view.quantity.pass_at
    return LevelsRow(
        key="nation", label="The nation", measure=view.at,
        n=int(size) if size == size else 0, missing=len(at) - int(weight), counts=[],
        share=_plain(share), at_or_above=_plain(above), pass_share=_at(above, passed), pinned=True,
    )  # fmt: skip

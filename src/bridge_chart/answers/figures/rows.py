"""Rows: the groups of a split as the Answer gives them, for one quantity."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from bridge_chart.answers.bound.filter import holds
from bridge_chart.answers.bound.split import Group, Grouping
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.beside import stayed, worst_case
from bridge_chart.answers.figures.figures import Figures, figures_of
from bridge_chart.answers.figures.judged import Verdicts, verdicts_of, without_verdicts
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.figures.pooled import Pooled, pooled
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.core.describing.describe import Description, moments
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW, firmness
from bridge_chart.terms.answer import Row, RowStep


def row_key(group: Group, view: View, *, several: bool) -> str:
    """A row's key: the group, and of several quantities which."""
    return f"{group.name}:{view.at}" if several else group.name


def path_of(group: Group, view: View, *, several: bool) -> list[RowStep]:
    """The steps that lead to a row: its groups, outer first, and its measure."""
    steps = [RowStep(key=Group(s.key, s.label).name, label=s.label) for s in group.steps]
    if several:
        steps.append(RowStep(key=f"measure-{view.at}", label=view.quantity.label))
    return steps


@dataclass(frozen=True)
class _Worked:
    """A part's figures, shrunken where the model has them."""

    part: Slice
    figures: Figures
    shrunken: Pooled | None


def rows_of(part: Slice) -> list[Row]:
    """A row per group of one quantity, unsorted."""
    return rows_together([part])[0]


def unjudged_row(part: Slice) -> Row:
    """The one row of a part, of which nothing is to be judged."""
    worked = _worked(part)
    return _rows(worked, without_verdicts(1), several=False)[0]


def rows_together(parts: Sequence[Slice]) -> list[list[Row]]:
    """The rows of each quantity, unsorted, judged as one family: false discoveries are controlled
    over all that one answer shows. Of several quantities a row's key and path name which."""
    worked = [_worked(part) for part in parts]
    told = verdicts_of([(one.part, one.figures, one.shrunken) for one in worked])
    return [
        _rows(one, verdicts, several=len(parts) > 1)
        for one, verdicts in zip(worked, told, strict=True)
    ]


def _worked(part: Slice) -> _Worked:
    figures = figures_of(part.view, part.out, part.grouping, quartiles=True)
    return _Worked(part, figures, _shrunken(part.view, part.out, part.grouping))


def _rows(worked: _Worked, told: Verdicts, *, several: bool) -> list[Row]:
    part, figures = worked.part, worked.figures
    view, out, grouping = part.view, part.out, part.grouping
    columns = _columns(figures, out)
    if worked.shrunken is not None:
        columns |= _pooled_columns(worked.shrunken, figures, out)
    columns |= worst_case(part, figures) | stayed(part)
    focus = _focus(part)
    rows = []
    for n, item in enumerate(grouping.groups):
        count = int(figures.values.n[n])
        shown = count >= FEWEST_TO_SHOW
        rows.append(
            Row(
                key=row_key(item, view, several=several),
                label=item.label,
                path=path_of(item, view, several=several),
                measure=view.at,
                n=count,
                missing=int(figures.values.missing[n]),
                verdict=told.verdict[n],
                because=told.because[n],
                overlap=grouping.overlaps,
                opens=opens(view, item),
                undefined=None if shown else "too_few",
                **({key: column[n] for key, column in columns.items()} if shown else {}),
                **{key: column[n] for key, column in focus.items()},
            )
        )
    return rows


def _shrunken(view: View, out: Outcome, grouping: Grouping) -> Pooled | None:
    if view.yardstick is None or not view.yardstick.pools:
        return None
    return pooled(view, out, grouping)


def _columns(figures: Figures, out: Outcome) -> dict[str, list[Any]]:
    """The row's numbers by name, NaN as None."""
    values, interval = figures.values, figures.interval
    plain = {
        "mean": values.mean, "sd": values.sd, "value": values.mean, "low": interval.low,
        "high": interval.high, "se": interval.se, "df": interval.df,
    }  # fmt: skip
    if isinstance(values, Description):
        plain |= {"q1": values.q1, "median": values.median, "q3": values.q3}
    if out.spans:
        span = figures.span
        plain |= {
            "yardstick": figures.yardstick, "span_raw": span, "span": span, "p": interval.p,
            "effect": span / out.sd if out.sd > 0 else span * np.nan,
        }  # fmt: skip
    columns = {key: _plain(column) for key, column in plain.items()}
    columns["se_kind"] = list(interval.kind)
    return columns


def _plain(column: Any) -> list[Any]:
    return [x if x == x else None for x in np.asarray(column).tolist()]


def _pooled_columns(found: Pooled, figures: Figures, out: Outcome) -> dict[str, list[Any]]:
    """What shrinking changes: the span that is drawn, its interval, its rank."""
    ranks: list[list[int] | None] = [
        [round(r), int(low), int(high)] if r == r else None
        for r, low, high in zip(found.rank, found.rank_low, found.rank_high, strict=True)
    ]
    effect = found.estimate / out.sd if out.sd > 0 else found.estimate * np.nan
    told = found.estimate == found.estimate
    firm = [f if t else None for f, t in zip(firmness(found.reliability), told, strict=True)]
    kinds = ["comparative" if t else k for t, k in zip(told, figures.interval.kind, strict=True)]
    return {
        "span": _plain(found.estimate), "low": _plain(found.low), "high": _plain(found.high),
        "se": _plain(found.se), "effect": _plain(effect), "df": [None] * len(told),
        "reliability": _plain(found.reliability),
        "firmness": firm, "rank": list(ranks), "se_kind": kinds,
    }  # fmt: skip


def _focus(part: Slice) -> dict[str, list[Any]]:
    """The same figure for those of each row who are in focus; nothing is filtered by it."""
    if part.view.focus is None:
        return {}
    inside = holds(part.view.focus, part.view.snapshot.students)
    grouping = part.grouping
    drawn = part.out.drawn if part.out.held is not None else part.out.values
    code = np.where(inside[grouping.at], grouping.code, -1)
    figures = moments(drawn[grouping.at], code, len(grouping.groups))
    few = figures.n < FEWEST_TO_SHOW
    return {
        "focus": _plain(figures.n > 0),
        "focus_n": figures.n.tolist(),
        "focus_value": _plain(np.where(few, np.nan, figures.mean)),
        "focus_low": _plain(np.where(few, np.nan, figures.low)),
        "focus_high": _plain(np.where(few, np.nan, figures.high)),
    }

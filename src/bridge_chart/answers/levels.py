"""Levels: the share of each group in every level or grade, around the pass line."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.compare import sort_key
from bridge_chart.answers.coverage import coverage
from bridge_chart.answers.frame import envelope
from bridge_chart.answers.grouping import Group, Grouping
from bridge_chart.answers.level_words import level_method, level_readings
from bridge_chart.answers.nation import tables_for
from bridge_chart.answers.population import everybody
from bridge_chart.answers.quantities import numeric_sibling
from bridge_chart.answers.rows import Slice, path_of
from bridge_chart.answers.slices import measure_dimension, measure_outside, slices_of
from bridge_chart.answers.view import View
from bridge_chart.answers.warnings import warnings_of
from bridge_chart.core.arrays import Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.describing.levels import level_shares
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Answer, LevelsBody, LevelsRow, RowStep, StepInfo
from bridge_chart.terms.errors import InvalidQuestion

SORTABLE = ("label", "n", "missing", "pass_share")


def levels(views: list[View]) -> Answer:
    """The Answer to a question shown as levels."""
    steps = views[0].quantity.steps
    if any(view.quantity.steps != steps for view in views):
        raise InvalidQuestion(
            "These measures have different scales, so their steps cannot stand side by side.",
            next_step="Take measures with one scale.",
        )
    parts = slices_of(views)
    several = len(parts) > 1
    rows = [row for part in parts for row in rows_of(part, part.grouping, several=several)]
    question = views[0].question
    reference = [row for part in parts for row in _references(part)]
    dimension, within = parts[0].grouping.label, parts[0].grouping.within or None
    if several:
        rows, reference, dimension, within = _named(parts, rows, reference)
    else:
        rows = _sorted(rows, question.sort)
    covered = [coverage(part.view, part.people, part.out.reasons) for part in parts]
    pass_at = views[0].quantity.pass_at
    body = LevelsBody(
        show="levels",
        dimension=dimension,
        within=within,
        steps=[
            StepInfo(name=name, passes=pass_at is not None and n >= pass_at)
            for n, name in enumerate(steps)
        ],
        pass_at=pass_at,
        opens={part.view.quantity.name: _opens(part.view) for part in parts},
        rows=rows,
    )
    return envelope(
        views,
        parts[0].out,
        body=body,
        coverage=covered,
        reference_levels=reference,
        readings=level_readings(parts, body, reference),
        method=level_method(views[0]),
        warnings=warnings_of(parts, covered, []),
    )


def rows_of(part: Slice, grouping: Grouping, *, several: bool) -> list[LevelsRow]:
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
                key=f"{item.key}:{view.quantity.name}" if several else item.key,
                label=item.label,
                path=path_of(item, view, several=several),
                measure=view.quantity.name,
                n=int(shares.n[n]),
                missing=int(shares.missing[n]),
                counts=counts if shown else [],
                share=_plain(shares.share[n]) if shown else [],
                at_or_above=_plain(shares.at_or_above[n]) if shown else [],
                pass_count=None if passed is None else sum(counts[passed:]),
                pass_share=_at(shares.at_or_above[n], passed),
                pass_low=_at(shares.at_or_above_low[n], passed),
                pass_high=_at(shares.at_or_above_high[n], passed),
                means={k: (v[n] if v[n] == v[n] else None) for k, v in means.items()}
                if shown else {},
                overlap=grouping.overlaps,
                undefined=None if shown else "too_few",
                narrow=item.narrow,
            )
        )  # fmt: skip
    return rows


def _opens(view: View) -> list[list[q.Condition]]:
    """What opens a count: the step, and only those who are counted."""
    counted = _counted(view)
    return [[_in_step(view, step), *counted] for step in range(len(view.quantity.steps))]


def _counted(view: View) -> list[q.Condition]:
    """What opens only those who are counted: with a level, a student may lack the yardstick."""
    if view.against is None or isinstance(view.against, q.AgainstGroup):
        return []
    lacking = [
        q.Missing(missing=reason, measure=view.quantity.ask, against=view.against)
        for reason in ("no_prior", "no_yardstick")
    ]
    return [q.Not(not_=q.AnyOf(any_=list(lacking)))]


def _in_step(view: View, step: int) -> q.Condition:
    return q.MeasureIs.model_validate(
        {"measure": view.quantity.ask, "level": [view.quantity.steps[step]]}
    )


def _plain(values: np.ndarray) -> list[float | None]:
    return [None if x != x else float(x) for x in values]


def _at(values: np.ndarray, place: int | None) -> float | None:
    return None if place is None or values[place] != values[place] else float(values[place])


def _means(part: Slice, grouping: Grouping) -> dict[str, list[float]]:
    """The mean of the same sitting's score in figures, where it has one."""
    if part.view.measure.role != "result":
        return {}
    other = numeric_sibling(part.view.snapshot, part.view.measure)
    if other is None:
        return {}
    values = np.asarray(part.view.snapshot.values(other))[grouping.at]
    return {other.score: moments(values, grouping.code, len(grouping.groups)).mean.tolist()}


def _references(part: Slice) -> list[LevelsRow]:
    wanted = part.view.question.reference
    rows = []
    everyone = everybody(part.view) if "district" in wanted else None
    if everyone is not None:
        rows.append(_whole(part, everyone, "district", "All schools"))
    if "nation" in wanted:
        row = nation_row(part)
        if row is not None:
            rows.append(row)
    return rows


def _whole(part: Slice, mask: Mask, key: str, label: str) -> LevelsRow:
    at = np.flatnonzero(mask)
    one = Grouping("", [Group(key, label)], at, np.zeros(len(at), np.int16), False, False)
    row = rows_of(part, one, several=False)[0]
    return row.model_copy(update={"open": False, "narrow": None})


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
        key="nation", label="The nation", measure=view.quantity.name,
        n=int(size) if size == size else 0, missing=len(at) - int(weight), counts=[],
        share=_plain(share), at_or_above=_plain(above), pass_share=_at(above, passed), open=False,
    )  # fmt: skip


def _named(
    parts: list[Slice], rows: list[LevelsRow], reference: list[LevelsRow]
) -> tuple[list[LevelsRow], list[LevelsRow], str, str | None]:
    """Rows of several measures: by group with the measures inside, or the other way round."""
    word, names = measure_dimension([part.view for part in parts])
    short = {p.view.quantity.name: name for p, name in zip(parts, names, strict=True)}
    question = parts[0].view.question
    split = [d for d in question.split if not isinstance(d, str)]
    outside = measure_outside(question)

    def called(row: LevelsRow) -> LevelsRow:
        step = RowStep(key=row.measure, label=short[row.measure])
        if not split:
            return row.model_copy(update={"label": step.label, "path": [step]})
        path = [step, row.path[0]] if outside else [row.path[0], step]
        return row.model_copy(update={"label": f"{path[0].label}, {path[1].label}", "path": path})

    named = [
        row.model_copy(
            update={
                "label": f"{row.label}, {short[row.measure]}",
                "key": f"{row.key}:{row.measure}",
                "path": [
                    RowStep(key=row.key, label=row.label),
                    RowStep(key=row.measure, label=short[row.measure]),
                ],
            }
        )
        for row in reference
    ]
    rows = [called(row) for row in rows]
    if not split:
        return rows, named, word, None
    dimension = parts[0].grouping.label
    order = sorted({row.path[0].label: 0 for row in rows}, key=sort_key)
    measures = list(short)
    if outside:
        return rows, named, word, dimension
    rows.sort(key=lambda row: (order.index(row.path[0].label), measures.index(row.measure)))
    return rows, named, dimension, word


def _sorted(rows: list[LevelsRow], sort: list[q.SortBy]) -> list[LevelsRow]:
    wanted = sort or [q.SortBy(by="pass_share")]
    for by in reversed(wanted):
        name = "pass_share" if by.by in ("span", "value", "mean") else by.by
        if name not in SORTABLE:
            raise InvalidQuestion(
                f"Levels cannot be sorted by “{by.by}”.",
                next_step=f"They can by: {', '.join(SORTABLE)}.",
            )
        have = [row for row in rows if getattr(row, name) is not None]
        lack = [row for row in rows if getattr(row, name) is None]
        have.sort(key=lambda row: sort_key(getattr(row, name)), reverse=by.dir == "desc")
        rows = have + lack
    return rows

"""Spread: histogram, box and share at or above, of up to six groups or measures on one axis."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.coverage import coverage
from bridge_chart.answers.cut_scores import cuts_by_year_level
from bridge_chart.answers.frame import envelope
from bridge_chart.answers.grouping import Group, Grouping
from bridge_chart.answers.population import everybody
from bridge_chart.answers.rows import Slice
from bridge_chart.answers.slices import measure_dimension, one_axis, slices_of
from bridge_chart.answers.view import View
from bridge_chart.answers.warnings import warnings_of
from bridge_chart.core.arrays import Floats
from bridge_chart.core.describing.distribution import at_or_above, bin_edges, histogram
from bridge_chart.core.gaps.superiority import superiority
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT, FEWEST_TO_SHOW
from bridge_chart.terms.answer import Answer, Curve, CutLine, Method, Reading, SpreadBody, Warn
from bridge_chart.terms.wording import count, number

MOST_CURVES = 6
MOST_POINTS = 160


def spread(views: list[View]) -> Answer:
    """The Answer to a question shown as spread: the figures themselves, whatever the yardstick."""
    one_axis(views)
    parts = slices_of(views)
    warned: list[Warn] = []
    if sum(len(part.grouping.groups) for part in parts) > MOST_CURVES:
        warned.append(_too_many(parts))
        parts = [_as_one(part) for part in parts[:MOST_CURVES]]
    names = measure_dimension(views)[1] if len(parts) > 1 else [""]
    split = any(len(part.grouping.groups) > 1 for part in parts)
    wanted = split and "district" in views[0].question.reference
    everyone = [_everyone(part) if wanted else None for part in parts]
    drawn = [part for part in (*parts, *everyone) if part is not None]
    held = np.concatenate([part.out.values[part.grouping.at] for part in drawn])
    edges, points = _edges(views[0], held), _points(held)
    curves: list[Curve] = []
    for part, whole, name in zip(parts, everyone, names, strict=False):
        if whole is not None:
            curves += _curves(whole, edges, points, name, reference=True)
        curves += _curves(part, edges, points, name if len(parts) > 1 else "")
    covered = [coverage(part.view, part.people, part.out.reasons) for part in parts]
    body = SpreadBody(
        show="spread", dimension=parts[0].grouping.label, unit=views[0].quantity.unit,
        edges=edges.tolist(), curves=curves, cuts=_cuts(parts[0]),
    )  # fmt: skip
    return envelope(
        views,
        parts[0].out,
        body=body,
        coverage=covered,
        readings=_readings(parts, curves),
        method=_method(views[0]),
        warnings=[*warned, *warnings_of(parts, covered, [])],
    )


def _too_many(parts: list[Slice]) -> Warn:
    groups = sum(len(part.grouping.groups) for part in parts)
    text = (
        f"{groups} groups are too many for one chart of curves, so all are shown as one; "
        f"narrow to at most {MOST_CURVES}, or choose another split."
    )
    return Warn(code="too_many_curves", text=text)


def _as_one(part: Slice) -> Slice:
    at = np.unique(part.grouping.at)
    one = Grouping("nothing", [Group("all", "All of them")], at, np.zeros(len(at), np.int16),
                   False, False)  # fmt: skip
    return Slice(part.view, part.out, part.people, one)


def _everyone(part: Slice) -> Slice:
    mask = everybody(part.view)
    if mask is None:
        mask = np.zeros(len(part.people), bool)
    at = np.flatnonzero(mask)
    one = Grouping("", [Group("district", "All schools")], at, np.zeros(len(at), np.int16),
                   False, False)  # fmt: skip
    return Slice(part.view, part.out, mask, one)


def _edges(view: View, values: Floats) -> Floats:
    """Bins that hold every curve that is drawn."""
    whole = view.quantity.decimals == 0 and view.quantity.score != "percent"
    return bin_edges(values, "steps" if whole else "continuous")


def _points(values: Floats) -> Floats:
    """Where the share at or above is looked up: every score, or evenly many of very many."""
    known = np.unique(values[~np.isnan(values)])
    if len(known) > MOST_POINTS:
        known = known[np.linspace(0, len(known) - 1, MOST_POINTS).round().astype(int)]
    return known


def _curves(
    part: Slice, edges: Floats, points: Floats, name: str, *, reference: bool = False
) -> list[Curve]:
    grouping, view = part.grouping, part.view
    values = part.out.values[grouping.at]
    groups = len(grouping.groups)
    bins = histogram(values, grouping.code, groups, edges, "continuous")
    above = at_or_above(values, grouping.code, groups, points)
    out = []
    for n, group in enumerate(grouping.groups):
        mine = values[(grouping.code == n) & ~np.isnan(values)]
        shown = len(mine) >= FEWEST_TO_SHOW
        label = ", ".join(word for word in ("" if name and group.key == "all" else group.label,
                                            name) if word)  # fmt: skip
        box = {}
        if shown:
            q = np.quantile(mine, (0.1, 0.25, 0.5, 0.75, 0.9)).tolist()
            box = dict(zip(("p10", "q1", "median", "q3", "p90"), q, strict=True))
            box |= {"mean": float(mine.mean()), "sd": float(mine.std(ddof=1)),
                    "minimum": float(mine.min()), "maximum": float(mine.max())}  # fmt: skip
        out.append(
            Curve(
                key=f"{group.key}:{view.quantity.name}",
                label=label,
                measure=view.quantity.name,
                n=int(bins.n[n]),
                missing=int(bins.missing[n]),
                counts=bins.counts[n].tolist() if shown else [],
                at=points.tolist() if shown else [],
                share=above.share[n].tolist() if shown else [],
                low=above.low[n].tolist() if shown else [],
                high=above.high[n].tolist() if shown else [],
                undefined=None if shown else "too_few",
                narrow=None if reference else group.narrow,
                **box,
            )
        )
    return out


def _cuts(part: Slice) -> list[CutLine]:
    """Cut scores, where all who are counted were tested in one year level."""
    view = part.view
    if view.quantity.part is not None or view.quantity.of is not None:
        return []
    cuts = cuts_by_year_level(view.snapshot, view.measure, view.quantity.form)
    at = part.grouping.at[part.out.reasons[part.grouping.at] == 0]
    levels = np.unique(np.asarray(view.tested_year_level)[at])
    level = int(levels[0]) if len(levels) == 1 else None
    lines = cuts.get(-1, []) + (cuts.get(level, []) if level is not None else [])
    if view.quantity.score != "scaled":
        return []
    return [
        CutLine(label=f"{cut.step}, expected" if cut.expected else cut.step, at=cut.lowest)
        for cut in lines
    ]


def _readings(parts: list[Slice], curves: list[Curve]) -> list[Reading]:
    """Middle and width of each; for two groups, how often the one is above the other."""
    own = [c for c in curves if c.narrow is not None and c.median is not None]
    said = []
    for curve in own[:MOST_CURVES]:
        text = (
            f"{curve.label}: the middle half lies between {number(curve.q1 or 0)} and "
            f"{number(curve.q3 or 0)}, median {number(curve.median or 0)} "
            f"({count(curve.n, 'student')})."
        )
        said.append(Reading(kind="list", rows=[curve.key], text=text))
    grouping = parts[0].grouping
    if len(parts) == 1 and len(grouping.groups) == 2 and not grouping.overlaps:
        said += _either_above(parts[0])
    return said


def _either_above(part: Slice) -> list[Reading]:
    grouping = part.grouping
    values = part.out.values[grouping.at]
    one, two = (values[(grouping.code == n) & ~np.isnan(values)] for n in (0, 1))
    if min(len(one), len(two)) < FEWEST_FOR_VERDICT:
        return []
    found = superiority(one, two)
    first, second = (group.label for group in grouping.groups)
    between = f"95% interval {100 * found.low:.0f} to {100 * found.high:.0f}"
    if not (found.low > 0.5 or found.high < 0.5):
        text = (
            f"Of one student of each, {first} is ahead of {second} in "
            f"{100 * found.probability:.0f} of 100 pairs ({between}): the two cannot be told apart."
        )
        return [Reading(kind="unclear", rows=[], text=text)]
    text = (
        f"Of one student of each, {first} is ahead of {second} in "
        f"{100 * found.probability:.0f} of 100 pairs ({between}; 50 would be even)."
    )
    return [Reading(kind="size", rows=[], text=text)]


def _method(view: View) -> Method:
    return Method(
        name="Distribution",
        says=[
            f"Every student's {view.quantity.score_name} in {view.quantity.label}, as it is.",
            "The curve gives the share that scored this much or more, with Wilson's 95% interval.",
            "Boxes: the middle half, the median; whiskers from the 10th to the 90th percentile.",
        ],
        facts={"most_curves": MOST_CURVES, "most_points": MOST_POINTS},
        page="methods/at-or-above.md",
    )

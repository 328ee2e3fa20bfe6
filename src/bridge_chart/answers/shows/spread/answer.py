"""Spread: histogram and box of every group or measure; of up to six the share at or above."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.pinned import pinned_slices
from bridge_chart.answers.figures.slices import Slice, measure_dimension, one_axis, opens
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.spread.body import Curve, CutLine, SpreadBody, SpreadOptions
from bridge_chart.answers.shows.spread.expected import expected_above
from bridge_chart.answers.shows.spread.near import near_boundaries
from bridge_chart.answers.what.cut_scores import cuts_by_year_level, half_lines
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Codes, Floats, Integers
from bridge_chart.core.describing.distribution import at_or_above, bin_edges, histogram
from bridge_chart.core.gaps.superiority import superiority
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT, FEWEST_TO_SHOW
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.terms.answer import Method, Reading, Warn
from bridge_chart.terms.wording import count, number

MOST_CURVES = 6
MOST_POINTS = 160
FROM_EACH_END = 3


def spread_shown(parts: Sequence[Slice]) -> Shown:
    """The figures themselves, with what the yardstick would give behind them."""
    views = [part.view for part in parts]
    one_axis(views)
    few = sum(len(part.grouping.groups) for part in parts) <= MOST_CURVES
    names = measure_dimension(views)[1] if len(parts) > 1 else [""]
    split = any(len(part.grouping.groups) > 1 for part in parts)
    pinned = [
        [one for one in pinned_slices(part) if not one.released] if split else [] for part in parts
    ]
    drawn = [*parts, *(one for ones in pinned for one in ones)]
    held = np.concatenate([part.out.values[part.grouping.at] for part in drawn])
    edges, points = _edges(views[0], held), _points(held) if few else np.zeros(0)
    curves: list[Curve] = []
    for part, above, name in zip(parts, pinned, names, strict=False):
        for one in above:
            found = _curves(one, edges, points, name)
            curves += [c.model_copy(update={"pinned": True, "opens": None}) for c in found]
        own = _curves(part, edges, points, name)
        curves += own if few else sorted(own, key=_by_median)
    covered = [coverage(part.view, part.people, part.out.reasons) for part in parts]
    body = SpreadBody(
        show="spread", dimension=parts[0].grouping.label, unit=views[0].quantity.unit,
        edges=edges.tolist(), together=_together(parts, edges), curves=curves,
        cuts=_cuts(parts[0]), curves_drawn=few, near=near_boundaries(parts),
    )  # fmt: skip
    return Shown(
        body=body,
        coverage=covered,
        readings=_readings(parts, curves),
        method=_method(views[0]),
        warnings=[*_no_curve(parts[0]), *warnings_of(parts, covered, [])],
    )


def _together(parts: Sequence[Slice], edges: Floats) -> list[int]:
    """Who is in two groups is one student."""
    values = np.concatenate([part.out.values[np.unique(part.grouping.at)] for part in parts])
    code = np.zeros(len(values), np.int64)
    return [int(n) for n in histogram(values, code, 1, edges, "continuous").counts[0]]


def _by_median(curve: Curve) -> tuple[bool, float]:
    """Lowest first; those too few to show at the end."""
    return curve.median is None, curve.median or 0.0


def _no_curve(part: Slice) -> list[Warn]:
    """The district's curve would tell single scores of students of other schools."""
    if part.view.wider is None or "district" not in part.view.question.reference:
        return []
    text = (
        "The district's curve is not published; its mean and spread, and its levels, are. "
        "Those of other schools are not in this picture."
    )
    return [Warn(code="not_published", text=text, instead={"show": "spans"})]


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


def _curves(part: Slice, edges: Floats, points: Floats, name: str) -> list[Curve]:
    grouping, view = part.grouping, part.view
    values = part.out.values[grouping.at]
    groups = len(grouping.groups)
    bins = histogram(values, grouping.code, groups, edges, "continuous")
    above = at_or_above(values, grouping.code, groups, points)
    own = _by_group(values, grouping.code, groups)
    out = []
    for n, group in enumerate(grouping.groups):
        mine = own[n]
        shown = len(mine) >= FEWEST_TO_SHOW
        label = ", ".join(word for word in ("" if name and group.name == "all" else group.label,
                                            name) if word)  # fmt: skip
        box = {}
        if shown:
            fractions = np.quantile(mine, (0.1, 0.25, 0.5, 0.75, 0.9)).tolist()
            box = dict(zip(("p10", "q1", "median", "q3", "p90"), fractions, strict=True))
            box |= {"mean": float(mine.mean()), "sd": float(mine.std(ddof=1)),
                    "minimum": float(mine.min()), "maximum": float(mine.max())}  # fmt: skip
        out.append(
            Curve(
                key=f"{group.name}:{view.at}",
                label=label,
                measure=view.at,
                n=int(bins.n[n]),
                missing=int(bins.missing[n]),
                counts=bins.counts[n].tolist() if shown else [],
                at=points.tolist() if shown else [],
                share=above.share[n].tolist() if shown else [],
                low=above.low[n].tolist() if shown else [],
                high=above.high[n].tolist() if shown else [],
                expected=expected_above(part, _counted(part, n), points) if shown else [],
                undefined=None if shown else "too_few",
                opens=opens(view, group),
                **box,
            )
        )
    return out


def _counted(part: Slice, group: int) -> Integers:
    """Positions of a group's students who are counted."""
    mine = part.grouping.at[part.grouping.code == group]
    return np.asarray(mine[part.out.reasons[mine] == 0])


def _by_group(values: Floats, code: Codes, groups: int) -> list[Floats]:
    """The known values of each group, sorted once for all of them."""
    known = ~np.isnan(values) & (code >= 0)
    order = np.argsort(code[known], kind="stable")
    ends = np.searchsorted(code[known][order], np.arange(groups + 1))
    return np.split(values[known][order], ends)[1:-1]


def _cuts(part: Slice) -> list[CutLine]:
    """Cut scores, where all who are counted were tested in one year level."""
    view = part.view
    if view.quantity.part is not None or view.quantity.worked is not None:
        return []
    cuts = cuts_by_year_level(view.snapshot, view.measure, view.quantity.form)
    at = part.grouping.at[part.out.reasons[part.grouping.at] == 0]
    levels = np.unique(np.asarray(tested_year_level(view.snapshot, view.measure))[at])
    level = int(levels[0]) if len(levels) == 1 else None
    lines = cuts.get(-1, []) + (cuts.get(level, []) if level is not None else [])
    if view.quantity.score not in IN_FIGURES:
        return []
    drawn = [
        CutLine(label=f"{cut.step}, expected" if cut.expected else cut.step, at=cut.lowest)
        for cut in lines
    ]
    if drawn and SpreadOptions.model_validate(view.question.options).halves:
        drawn += _halves(part, level)
    return sorted(drawn, key=lambda line: line.at)


def _halves(part: Slice, level: int | None) -> list[CutLine]:
    """Where the upper half of each level begins."""
    view, key = part.view, part.view.measure
    every = cuts_by_year_level(view.snapshot, key, view.quantity.form).values()
    declared = tuple(dict.fromkeys(cut.step for lines in every for cut in lines))
    sat = [m.steps for m in view.snapshot.measures if m.sitting == key.sitting and m.steps]
    stepped = sat[0] if sat else declared
    levels = np.asarray(tested_year_level(view.snapshot, key))
    found = half_lines(view.snapshot, key, stepped, view.snapshot.values(key), levels, level,
                       view.quantity.form)  # fmt: skip
    return [CutLine(label=f"upper half of {step}", at=at, half=True) for step, at in found]


def _readings(parts: Sequence[Slice], curves: list[Curve]) -> list[Reading]:
    """Middle and width of each; for two groups, how often the one is above the other."""
    own = [c for c in curves if not c.pinned and c.median is not None]
    said = []
    if len(own) > MOST_CURVES:
        text = (
            f"The lowest and the highest of {len(own)}. Boxes are of the students themselves, and "
            "say nothing of chance: don't rank by them; Spans tells what is beyond it."
        )
        said.append(Reading(kind="none", rows=[], text=text))
        own = [*own[:FROM_EACH_END], *own[-FROM_EACH_END:]]
    for curve in own:
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


def _expected(view: View) -> list[str]:
    """What the dotted curve is, where there is one."""
    held = view.yardstick
    if held is None or held.is_group:
        return []
    around = ", with the error of prediction around it" if held.priors else ""
    return [f"The dotted curve is the same of what {held.whom} would give{around}."]


def _method(view: View) -> Method:
    return Method(
        name="Distribution",
        says=[
            f"Every student's {view.quantity.score_name} in {view.quantity.label}, as it is.",
            "The curve gives the share that scored this much or more, with Wilson's 95% interval.",
            *_expected(view),
            "Boxes: the middle half, the median; whiskers from the 10th to the 90th percentile.",
        ],
        facts={"most_curves": MOST_CURVES, "most_points": MOST_POINTS},
        page="methods/at-or-above.md",
    )

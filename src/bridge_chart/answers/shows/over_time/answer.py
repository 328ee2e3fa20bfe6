"""Over time: one line for each group, a point for each sitting."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from bridge_chart.answers.bound.split import Group
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.changes import Changes, changes_between
from bridge_chart.answers.figures.figures import Figures, figures_of
from bridge_chart.answers.figures.slices import Slice, one_axis, opens
from bridge_chart.answers.shows.over_time.body import Series, TimeBody, TimePoint
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Mask
from bridge_chart.core.trust.discoveries import threshold
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT, FEWEST_TO_SHOW, verdicts_together
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import count, day, interval, number
from bridge_chart.terms.words import spoken

MOST_SAID = 6
BESIDE = {
    "ahead": "; more than the others did, beyond chance",
    "behind": "; less than the others did, beyond chance",
}


def time_shown(parts: Sequence[Slice]) -> Shown:
    """Each sitting has its own population, unless “as of” names one date: then the same students
    are followed. `matched`: only those who are counted at every sitting."""
    parts = sorted(parts, key=lambda part: part.view.measure.date)
    views = [part.view for part in parts]
    one_axis(views)
    if len({view.measure.date for view in views}) < 2:
        raise NotFound(
            f"{views[0].measure.about} has one sitting only that this can be asked of, so there is "
            "nothing over time.",
            next_step="Choose several sittings or another yardstick, or bring in an earlier one.",
        )
    series = _series(parts)
    yardstick = views[0].yardstick
    held = yardstick is not None and parts[0].out.held is not None
    body = TimeBody(
        show="over_time",
        dimension=parts[0].grouping.label,
        unit=views[0].quantity.unit,
        what=f"distance from {yardstick.words}" if held and yardstick is not None
        else f"mean {views[0].quantity.score_name}",
        series=series,
    )  # fmt: skip
    covered = [coverage(part.view, part.people, part.out.reasons) for part in parts]
    return Shown(
        body=body,
        coverage=covered,
        readings=_readings(series, views[0].quantity.unit),
        method=_method(views),
        warnings=warnings_of([parts[-1]], covered, []),
    )


def with_yardstick(views: Sequence[View]) -> Sequence[View]:
    """Only the sittings that have the yardstick: the first of all has none before it."""
    held = []
    for view in views:
        try:
            if view.yardstick is not None:
                view.yardstick.held(view.snapshot)
        except (NotFound, InvalidQuestion):
            continue
        held.append(view)
    return held or views


def _series(parts: Sequence[Slice]) -> list[Series]:
    """Groups by key, in the order in which they appear; a group may lack a sitting."""
    found: dict[str, Series] = {}
    moves = [changes_between(one, two) for one, two in pairwise(parts)]
    told = verdicts_together([move.judging for move in moves])
    cut = threshold(np.concatenate([move.family for move in moves]))
    far: dict[str, float] = {}
    for number_, part in enumerate(parts):
        figures = figures_of(part.view, part.out, part.grouping, quartiles=False)
        for n, group in enumerate(part.grouping.groups):
            empty = Series(key=group.name, label=group.label, points=[])
            series = found.setdefault(group.name, empty)
            point = _point(part, figures, n, group)
            if number_:
                move, verdict = moves[number_ - 1], told[number_ - 1].verdicts[n]
                point = _changed(point, move, n, verdict, cut)
                if verdict in BESIDE:
                    # The order of distances from the others would bound what they did: a narrower
                    # role has its groups in the order of their own change.
                    own = not part.view.snapshot.scope.whole
                    distance = abs(float((move.own if own else move.beside).value[n]))
                    far[group.name] = max(distance, far.get(group.name, 0.0))
            series.points.append(point)
    return _told_apart(found, far)


def _told_apart(found: dict[str, Series], far: dict[str, float]) -> list[Series]:
    """With the place of those that moved otherwise than the others, by how far they did."""
    place = {name: n + 1 for n, name in enumerate(sorted(far, key=lambda name: -far[name]))}
    return [one.model_copy(update={"apart": place.get(one.key)}) for one in found.values()]


def _point(part: Slice, figures: Figures, n: int, group: Group) -> TimePoint:
    mine = np.zeros(len(part.out.values), bool)
    mine[part.grouping.at[part.grouping.code == n]] = True
    shown = int(figures.values.n[n]) >= FEWEST_TO_SHOW
    value = figures.span[n] if part.out.spans else figures.values.mean[n]
    told = {
        "value": float(value), "low": float(figures.interval.low[n]),
        "high": float(figures.interval.high[n]),
    }  # fmt: skip
    return TimePoint(
        measure=part.view.at,
        label=_called(part, mine),
        date=str(part.view.measure.date),
        n=int(figures.values.n[n]),
        missing=int(figures.values.missing[n]),
        undefined=None if shown else "too_few",
        opens=opens(part.view, group),
        **{k: (v if shown and v == v else None) for k, v in told.items()},
    )


def _called(part: Slice, mine: Mask) -> str:
    """The sitting; or the year level that most of the group were tested in."""
    if part.view.question.over == "sitting":
        return part.view.measure.sitting.name
    tested = np.asarray(tested_year_level(part.view.snapshot, part.view.measure))
    levels = tested[mine & (part.out.reasons == 0)]
    levels = levels[levels >= 0]
    return spoken().level_name(int(np.bincount(levels).argmax()) if len(levels) else -1)


def _changed(point: TimePoint, move: Changes, n: int, verdict: str, cut: float) -> TimePoint:
    """The change since the sitting before, of the students who are counted at both."""
    own = move.own
    if int(own.n[n]) < FEWEST_TO_SHOW or own.low[n] != own.low[n]:
        return point
    return point.model_copy(
        update={"change": float(own.value[n]), "change_low": float(own.low[n]),
                "change_high": float(own.high[n]), "change_n": int(own.n[n]),
                "moved": bool(own.p[n] <= cut and own.n[n] >= FEWEST_FOR_VERDICT),
                "verdict": verdict}
    )  # fmt: skip


def _readings(series: list[Series], unit: str) -> list[Reading]:
    """The last step of groups, of the same students: how far each moved, first of those who moved
    more or less than the others did."""
    said = []
    told = sorted(series, key=lambda one: one.apart or len(series) + 1)
    for one in told[:MOST_SAID]:
        last = one.points[-1]
        if last.change is None or last.change_low is None or last.change_high is None:
            said += _apart(one)
            continue
        of = f"{count(last.change_n, 'student')} with both"
        between = f"95% interval {interval(last.change_low, last.change_high)}, {of}"
        if last.moved:
            way = "rose" if last.change > 0 else "fell"
            text = f"{one.label} {way} by {number(abs(last.change))} {unit} ({between})"
        else:
            text = f"{one.label}: no change that can be told ({between})"
        text += BESIDE.get(last.verdict, "") + "."
        kind = "list" if last.verdict == "none" and last.moved else last.verdict
        kind = "unclear" if not last.moved and kind in ("none", "alike") else kind
        said.append(Reading(kind=kind, rows=[one.key], text=text))
    return said


def _apart(one: Series) -> list[Reading]:
    """Sittings of different students: their means as they are, and that nobody is followed."""
    told = [p for p in one.points if p.value is not None]
    if len(told) < 2:
        return []
    ends = [
        f"{number(p.value or 0.0)} in {p.label} ({count(p.n, 'student')})"
        for p in (told[0], told[-1])
    ]
    text = (
        f"{one.label}: {ends[0]}, {ends[1]}. These are other students each time; ask as they are "
        "today to follow the same ones."
    )
    return [Reading(kind="list", rows=[one.key], text=text)]


def _method(views: Sequence[View]) -> Method:
    question = views[0].question
    follows = question.who.as_of not in (None, "sitting")
    who = (
        f"The same students throughout: those who fit the question {views[0].as_of_text}."
        if follows
        else "At each sitting, the students who fitted the question then."
    )
    if question.cohort == "matched":
        who += " Only those counted at every sitting."
    return Method(
        name="Over time",
        says=[
            who,
            "Points are means with their 95% interval; n stands at each.",
            "A change is that of the students who are counted at both sittings, with its interval "
            "against none; whether it is more or less than the others' is said after control over "
            "all groups.",
        ],
        facts={"cohort": question.cohort, "sittings": [day(view.measure.date) for view in views]},
        page="methods/gains.md",
    )

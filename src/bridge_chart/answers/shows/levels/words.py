"""What levels say, and how they are worked out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from bridge_chart.answers.bound.quantity import HALVES
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.levels.body import LevelsBody, LevelsRow
from bridge_chart.answers.shows.levels.passing import gap_between
from bridge_chart.core.contrasts.rows import Contrasts
from bridge_chart.core.estimate import Estimate
from bridge_chart.core.gaps.shares import newcombe_paired, share_of_level_gap_warning
from bridge_chart.core.trust.discoveries import threshold
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.wording import count, interval, listed


def percent(share: float) -> str:
    """A share in whole percent.

    >>> percent(0.666)
    '67%'
    """
    return f"{100 * share:.0f}%"


def pass_line(view: View) -> str:
    """The lowest step that passes; of half-levels the level itself."""
    return view.quantity.steps[view.quantity.pass_at or 0].removesuffix(f", {HALVES[0]}")


def _verb(body: LevelsBody, past: str = "passed") -> str:
    """“Passed” is said of the scale's own line; one drawn elsewhere is reached."""
    other = {"passed": "reached the line", "passes": "reaches the line", "pass": "reach the line"}
    return other[past] if body.drawn else past


def level_method(view: View) -> Method:
    """Where the shares come from."""
    quantity = view.quantity
    line = "On this scale no pass line is declared"
    if quantity.id.line is not None:
        line = f"As asked, the line is drawn at “{pass_line(view)}”, not where the scale draws it"
    elif quantity.pass_at is not None:
        line = f"On this scale “{pass_line(view)}” and better count as passed"
    return Method(
        name="Shares in each level",
        says=[
            f"Of the students with a {view.measure.score} in {quantity.label}, the share in each.",
            f"{line}. Intervals of shares are Wilson's, at 95%, of as many students as "
            "those in their classes are worth.",
            "Nothing is allowed for: not where they started, not who they are.",
        ],
        facts={"steps": list(quantity.steps), "pass_at": quantity.pass_at, "confidence": 0.95},
        page="methods/levels.md",
    )


def level_readings(parts: Sequence[Slice], body: LevelsBody) -> list[Reading]:
    """The pass line first: the whole, who is beyond chance from the rest, two groups' gap."""
    view = parts[0].view
    if body.pass_at is None:
        return [Reading(kind="list", rows=[], text=_without_line(view))]
    said = [_whole(row, view) for row in body.reference if row.pass_share is not None]
    split = [d for d in view.question.split if not isinstance(d, str)]
    if len(parts) > 1 and not split:
        said += [_whole(row, view) for row in body.rows if row.pass_share is not None]
        return said + _paired(parts, body)
    pairs = []
    for part in parts:
        told = [
            row for row in body.rows
            if row.pass_share is not None and row.n and row.measure == part.view.at
        ]  # fmt: skip
        if len(told) == 2 and not any(row.overlap for row in told):
            pairs.append((part, told))
        elif len(told) > 2:
            said += _apart(told, part.grouping.label, body)
        elif told:
            said.append(_whole(told[0], view))
    said += _gaps(pairs, body)
    few = [row.label for row in body.rows if row.undefined]
    if few:
        said.append(Reading(kind="few", rows=[], text=f"{listed(few)}: too few students to show."))
    return said


def _paired(parts: Sequence[Slice], body: LevelsBody) -> list[Reading]:
    """Several figures of the same students: how often each passed, against the first, among those
    who have both."""
    said = []
    first = parts[0]
    line = (body.pass_at or 0) + 1
    for part, row in zip(parts[1:], body.rows[1:], strict=True):
        at = np.intersect1d(first.grouping.at, part.grouping.at)
        one, two = first.out.values[at], part.out.values[at]
        both = ~np.isnan(one) & ~np.isnan(two)
        if both.sum() < FEWEST_FOR_VERDICT:
            continue
        a, b = one[both] >= line, two[both] >= line
        gap = newcombe_paired(
            int(np.sum(b & a)), int(np.sum(b & ~a)), int(np.sum(~b & a)), int(np.sum(~b & ~a))
        )
        names = (body.rows[0].label.lower(), row.label.lower())
        of = f"{count(int(both.sum()), 'student')} with both"
        size = f"{abs(100 * gap.value):.0f} percentage points"
        if gap.low > 0 or gap.high < 0:
            word = "more" if gap.value > 0 else "less"
            passes = _verb(body, "passes")
            text = f"{names[1]} {passes} {word} often than {names[0]}: {size} ({_of(gap)}, {of})."
        else:
            text = (
                f"{names[1]} and {names[0]} {_verb(body, 'pass')} equally often as far as can be "
                f"told: {size} ({_of(gap)}, {of})."
            )
        said.append(Reading(kind="pass", rows=[row.key], text=text[:1].upper() + text[1:]))
    return said


def _of(gap: Estimate) -> str:
    """The interval of a gap of shares from 0 to 1."""
    return _between(100 * gap.value, 100 * gap.low, 100 * gap.high)


def _without_line(view: View) -> str:
    if view.quantity.worked is not None:
        return "No line is drawn among these words; the shares are in each."
    return (
        f"No pass line is declared for {view.measure.assessment.name}; bring in its scale to see "
        "who passed."
    )


def _whole(row: LevelsRow, view: View) -> Reading:
    assert row.pass_share is not None
    passed = pass_line(view)
    text = f"{row.label}: {percent(row.pass_share)} reached “{passed}” or better"
    if row.pass_low is not None and row.pass_high is not None:
        text += f" (95% interval {percent(row.pass_low)} to {percent(row.pass_high)}, "
        text += f"{count(row.n, 'student')})."
    else:
        text += f" ({count(row.n, 'student')} behind the table)." if row.n else "."
    return Reading(kind="pass", rows=[row.key], text=text)


def _apart(told: list[LevelsRow], dimension: str, body: LevelsBody) -> list[Reading]:
    """Who is told from the others, false discoveries held down over the whole answer."""
    said = []
    for kind in ("behind", "ahead"):
        mine = [row for row in told if row.verdict == kind]
        mine.sort(key=lambda row: (row.pass_share or 0) * (1 if kind == "behind" else -1))
        word = "below" if kind == "behind" else "above"
        for row in mine[:3]:
            off = _off(row, word, body)
            text = f"{row.label}: {percent(row.pass_share or 0)} {_verb(body)}, {off}"
            said.append(Reading(kind=kind, rows=[row.key], text=text))
        if mine[3:]:
            names = listed([row.label for row in mine[3:]])
            text = f"{names}: {word} {_whom(mine[0], body)}, beyond chance."
            said.append(Reading(kind=kind, rows=[row.key for row in mine[3:]], text=text))
    thing = dimension if dimension in ("school", "class", "teacher") else "group"
    rest = [row for row in told if row.verdict in ("unclear", "alike")]
    if rest:
        whom = _whom(rest[0], body, "")
        text = (
            f"{count(len(rest), thing)} cannot be told from {whom} by the share that "
            f"{_verb(body)}; don't rank them."
        )
        said.append(Reading(kind="unclear", rows=[r.key for r in rest], text=text))
    return said


def _whom(row: LevelsRow, body: LevelsBody, together: str = " together") -> str:
    """Whom the verdict is against: similar starters, else the others."""
    judged = row.span is not None and body.against
    return body.against or "" if judged else f"the others{together}"


def _off(row: LevelsRow, word: str, body: LevelsBody) -> str:
    """How far a row's share lies from similar starters', or from the others' where theirs may be
    said."""
    if row.span is not None and row.span_low is not None and row.span_high is not None:
        between = _between(row.span, row.span_low, row.span_high)
        return (
            f"{abs(row.span):.0f} points {word} {_whom(row, body)} ({between}, "
            f"{count(row.n, 'student')})."
        )
    if row.others is None or row.others_low is None or row.others_high is None:
        return f"{word} the others together, beyond chance ({count(row.n, 'student')})."
    between = _between(row.others, row.others_low, row.others_high)
    return (
        f"{abs(row.others):.0f} points {word} the others together "
        f"({between}, {count(row.n, 'student')})."
    )


def _between(gap: float, low: float, high: float) -> str:
    """The interval of a gap in points as it is said: the larger share minus the smaller."""
    side = 1.0 if gap > 0 else -1.0
    low, high = sorted((side * low, side * high))
    return f"95% interval {interval(low, high, 0)}"


def _gaps(pairs: list[tuple[Slice, list[LevelsRow]]], body: LevelsBody) -> list[Reading]:
    """Two groups of each measure: their gap at the pass line, all gaps one family; and whether
    another cut would turn it."""
    found = []
    for part, told in pairs:
        place = {group.name: n for n, group in enumerate(part.grouping.groups)}
        second, first = (place[row.key.split(":")[0]] for row in told)
        found.append((told, gap_between(part, first, second)))
    cut = threshold(np.array([gap.p[0] for _, gap in found])) if found else 0.0
    return [reading for told, gap in found for reading in _gap(told, gap, cut, body)]


def _gap(told: list[LevelsRow], gap: Contrasts, cut: float, body: LevelsBody) -> list[Reading]:
    first, second = told
    value, low_end, high_end = (float(x[0]) for x in (gap.value, gap.low, gap.high))
    if value != value:
        return []
    enough = min(first.n, second.n) >= FEWEST_FOR_VERDICT
    high, low = (first, second) if value > 0 else (second, first)
    told_apart = enough and bool(gap.p[0] <= cut)
    size = f"{abs(value):.0f} percentage points"
    between = _between(value, low_end, high_end)
    if told_apart:
        text = f"{high.label} {_verb(body)} more often than {low.label}: {size} apart ({between})."
    else:
        text = (
            f"{first.label} and {second.label} cannot be told apart by the share that "
            f"{_verb(body)}: {size}, {between}."
        )
    kind: Literal["pass", "size"] = "size" if told_apart else "pass"
    said = [Reading(kind=kind, rows=[first.key, second.key], text=text)]
    cuts = [
        (a or 0.0) - (b or 0.0)
        for a, b in zip(first.at_or_above[1:], second.at_or_above[1:], strict=True)
    ]
    if told_apart and share_of_level_gap_warning(cuts):
        text = "With another cut the gap would turn round: look at all levels, not at one line."
        said.append(Reading(kind="trust", rows=[], text=text))
    return said

"""What it says: the chart read aloud, by rules that never claim more than the intervals do."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.figures import Outcome
from bridge_chart.answers.grouping import Grouping
from bridge_chart.answers.view import View
from bridge_chart.core.trust.chance import chance_line, heterogeneity
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT
from bridge_chart.store.codes import UNITS
from bridge_chart.terms.answer import Reading, Row
from bridge_chart.terms.wording import count, interval, listed, number, share_of_sd

NAMED_APART = 3


def readings_of(
    view: View, out: Outcome, grouping: Grouping, rows: list[Row], reference: list[Row]
) -> list[Reading]:
    """Short sentences that a head teacher can repeat."""
    if not any(row.n for row in rows):
        return [Reading(kind="list", rows=[], text="Nobody is counted, so nothing can be said.")]
    if out.held is None:
        return _without_yardstick(view, grouping, rows, reference)
    said = _chance(grouping, rows)
    for kind in ("behind", "ahead"):
        said += _beyond(view, kind, rows)
    return said + _within(rows, grouping) + _few(rows)


def _thing(grouping: Grouping) -> str:
    return grouping.label if grouping.label in ("school", "class", "teacher") else "group"


def _chance(grouping: Grouping, rows: list[Row]) -> list[Reading]:
    """What equal groups would give, and whether these differ at all."""
    told = [row for row in rows if row.verdict not in ("few", "none")]
    if len(told) < 2:
        return []
    line = chance_line(len(told))
    sure = round(100 * line.at_least_one)
    text = (
        f"{count(len(told), _thing(grouping))}: if none truly differed, "
        f"{number(line.expected)} would look different by chance ({line.low} to {line.high}); "
        f"at least one with {sure}% probability."
    )
    said = [Reading(kind="chance", rows=[], text=text)]
    if grouping.within_school and not grouping.overlaps:
        means = np.array([row.span for row in told], dtype=float)
        errors = np.array([row.se for row in told], dtype=float)
        test = heterogeneity(means, errors)
        if test.p >= 0.05:
            text = "They do not differ from one another by more than chance would give."
            said.append(Reading(kind="chance", rows=[], text=text))
    return said


def _beyond(view: View, kind: str, rows: list[Row]) -> list[Reading]:
    found = [row for row in rows if row.verdict == kind]
    found.sort(key=lambda row: -abs(row.span or 0.0))
    said = [_one(view, kind, row) for row in found[:NAMED_APART]]
    rest = found[NAMED_APART:]
    if rest:
        verb = "is" if len(rest) == 1 else "are"
        text = f"{listed([r.label for r in rest])} {verb} {kind} by more than chance would give."
        said.append(Reading(kind=kind, rows=[r.key for r in rest], text=text))
    return said


def _one(view: View, kind: str, row: Row) -> Reading:
    assert row.span is not None
    assert row.low is not None
    assert row.high is not None
    unit = UNITS[view.measure.score].removeprefix("scaled-score ")
    size = number(abs(row.span)) + ("" if unit == "%" else " ") + unit
    text = (
        f"{row.label} is {size} {kind} {'of ' if kind == 'ahead' else ''}similar starters "
        f"(95% interval {interval(row.low, row.high)}, {count(row.n, 'student')})."
    )
    if row.effect is not None:
        text += f" That is {share_of_sd(row.effect)}."
    return Reading(kind=row.verdict, rows=[row.key], text=text)


def _within(rows: list[Row], grouping: Grouping) -> list[Reading]:
    said = []
    alike = [row for row in rows if row.verdict == "alike"]
    unclear = [row for row in rows if row.verdict == "unclear"]
    thing = _thing(grouping)
    if alike:
        verb = "is" if len(alike) == 1 else "are"
        text = (
            f"{listed([r.label for r in alike])} {verb} shown to be close to similar starters: "
            "within a tenth of a standard deviation."
        )
        said.append(Reading(kind="alike", rows=[r.key for r in alike], text=text))
    if unclear:
        others = len(unclear) < len(rows)
        if len(unclear) == 1:
            text = f"{unclear[0].label} cannot be told from what chance would give."
        else:
            text = (
                f"{'The other ' if others and not alike else ''}"
                f"{count(len(unclear), thing)} cannot be told from what chance would give; "
                "don't rank them."
            )
        said.append(Reading(kind="unclear", rows=[r.key for r in unclear], text=text))
    return said


def _few(rows: list[Row]) -> list[Reading]:
    """Rows that cannot be judged, by what they have too few of: students, or schools."""
    few = [row for row in rows if row.verdict == "few"]
    students = [row for row in few if row.n < FEWEST_FOR_VERDICT]
    schools = [row for row in few if row.n >= FEWEST_FOR_VERDICT]
    said = []
    if len(students) == 1:
        row = students[0]
        text = f"{row.label} has only {count(row.n, 'student')} counted: too few to judge."
        said.append(Reading(kind="few", rows=[row.key], text=text))
    elif students:
        text = f"{listed([row.label for row in students])} have too few students to judge."
        said.append(Reading(kind="few", rows=[row.key for row in students], text=text))
    if schools:
        names = listed([row.label for row in schools])
        text = f"{names}: the students come from too few schools to tell chance from more."
        said.append(Reading(kind="few", rows=[row.key for row in schools], text=text))
    return said


def _without_yardstick(
    view: View, grouping: Grouping, rows: list[Row], reference: list[Row]
) -> list[Reading]:
    told = sorted((row for row in rows if row.value is not None), key=lambda r: r.value or 0.0)
    said = []
    if len(told) > 1:
        low, high = told[0], told[-1]
        text = (
            f"Means run from {number(low.value or 0)} ({low.label}, {count(low.n, 'student')}) "
            f"to {number(high.value or 0)} ({high.label}, {count(high.n, 'student')})."
        )
        said.append(Reading(kind="list", rows=[low.key, high.key], text=text))
    elif told:
        row = told[0]
        text = f"{row.label}: a mean of {number(row.value or 0)} ({count(row.n, 'student')})."
        said.append(Reading(kind="list", rows=[row.key], text=text))
    for row in reference:
        if row.value is not None and row.low is not None and row.high is not None:
            text = (
                f"{row.label} together: {number(row.value)} "
                f"(95% interval {interval(row.low, row.high)}, {count(row.n, 'student')})."
            )
            said.append(Reading(kind="list", rows=[row.key], text=text))
    text = (
        "This does not allow for where they started: measure it against that before "
        "anybody is praised or blamed."
    )
    return [*said, Reading(kind="none", rows=[], text=text), *_few(rows)]

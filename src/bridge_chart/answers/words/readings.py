"""What it says: the chart read aloud, by rules that never claim more than the intervals do."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.core.gaps.two_way import two_way
from bridge_chart.core.trust.chance import chance_line, heterogeneity
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT
from bridge_chart.terms.answer import Reading, Row
from bridge_chart.terms.wording import count, interval, listed, number, plural, share_of_sd, signed

NAMED_APART = 3


def readings_of(parts: Sequence[Slice], rows: list[Row], reference: list[Row]) -> list[Reading]:
    """Short sentences that a head teacher can repeat."""
    if not any(row.n for row in rows):
        return [Reading(kind="list", rows=[], text="Nobody is counted, so nothing can be said.")]
    if len(parts) > 1:
        return _of_several(parts, rows)
    part = parts[0]
    grouping = part.grouping
    if not part.out.spans:
        return _without_yardstick(part, rows, reference)
    said = _chance(grouping, rows) + _ranked(rows, grouping)
    for kind in ("behind", "ahead"):
        said += _beyond(part, kind, rows)
    return said + _within(part, rows, grouping) + _interacting(part) + _few(rows)


def _of_several(parts: Sequence[Slice], rows: list[Row]) -> list[Reading]:
    """For each measure its rows beyond chance, or its lowest where the order is a fact; all
    verdicts together are held against chance once."""
    told = [row for row in rows if row.verdict not in ("few", "none") and row.low is not None]
    said = _chance_of(told, "row") if parts[0].out.spans else []
    told_apart: list[tuple[float, Reading]] = []
    for part in parts:
        mine = [row for row in rows if row.measure == part.view.at]
        beyond = [row for row in mine if row.verdict in ("behind", "ahead")]
        beyond.sort(key=lambda row: row.span or 0.0)
        ends = [*beyond[:1], *(beyond[-1:] if len(beyond) > 1 else [])]
        told_apart += [(row.span or 0.0, _one(part, row)) for row in ends]
        said += _ranked(mine, part.grouping, part.view.quantity.key.about)
    said += [reading for _, reading in sorted(told_apart, key=lambda pair: pair[0])]
    if not parts[0].out.spans:
        said += _ends(rows)
    elif not any(row.verdict in ("behind", "ahead") for row in rows):
        said += _furthest(parts, rows)
    return said + _few(rows)


def _furthest(parts: Sequence[Slice], rows: list[Row]) -> list[Reading]:
    """The rows that lie furthest below, said as what they are: not told from chance."""
    text = "No row differs from its yardstick by more than chance would give; don't rank them."
    said = [Reading(kind="unclear", rows=[], text=text)]
    below = sorted((r for r in rows if (r.span or 0.0) < 0), key=lambda r: r.span or 0.0)[:2]
    spans = [
        f"{row.label} ({signed(row.span or 0.0)}, 95% interval "
        f"{interval(row.low or 0.0, row.high or 0.0)}, {count(row.n, 'student')})"
        for row in below if row.low is not None
    ]  # fmt: skip
    if spans:
        text = f"Furthest below in this sample: {' and '.join(spans)}."
        said.append(Reading(kind="list", rows=[row.key for row in below], text=text))
    return said


def _ends(rows: list[Row]) -> list[Reading]:
    """The lowest and the highest mean, as plain facts, and whether they can be told apart."""
    told = sorted((r for r in rows if r.value is not None), key=lambda r: r.value or 0.0)
    if len(told) < 2:
        return []
    said = []
    for row, word in ((told[0], "lowest"), (told[1], "next lowest"), (told[-1], "highest")):
        if row.low is None or row.high is None or row.value is None:
            continue
        text = (
            f"{word.capitalize()}: {row.label}, {number(row.value)} "
            f"(95% interval {interval(row.low, row.high)}, {count(row.n, 'student')})."
        )
        said.append(Reading(kind="list", rows=[row.key], text=text))
        if len(told) == 2:
            break
    return said


def _ranked(rows: list[Row], grouping: Grouping, about: str = "") -> list[Reading]:
    """Whether an order means anything, where ranks have intervals: how far down the lowest row
    could be from the bottom."""
    held = [row for row in rows if row.rank is not None]
    where = f"{about}: " if about else ""
    flat = [row for row in rows if row.se_kind == "comparative" and row.low is None]
    if len(flat) > 2 and not held:
        things = plural(_thing(grouping))
        text = f"{where}no difference between the {things} was found; don't rank them."
        return [Reading(kind="unclear", rows=[], text=text[:1].upper() + text[1:])]
    if len(held) < 3:
        return []
    last = max(held, key=lambda row: (row.rank or [0])[0])
    assert last.rank is not None
    label = last.path[-1].label if last.path else last.label
    lowest = f"the lowest of {len(held)} {plural(_thing(grouping))} is {label}"
    place = f"its rank lies between {last.rank[1]} and {last.rank[2]}"
    if last.rank[1] > 0.75 * len(held):
        text = f"{where}{lowest}; {place}, so it is among the lowest quarter."
    else:
        text = f"{where}{lowest}, but {place}: the order says little; don't rank them."
    return [Reading(kind="trust", rows=[last.key], text=text[:1].upper() + text[1:])]


def _interacting(part: Slice) -> list[Reading]:
    """Two splits: whether the gap of the one depends on the other."""
    grouping = part.grouping
    if not grouping.within or grouping.overlaps:
        return []
    outer = list(dict.fromkeys(g.path[0].key for g in grouping.groups if g.known))
    inner = list(dict.fromkeys(g.path[1].key for g in grouping.groups if g.known))
    if len(outer) < 2 or len(inner) < 2:
        return []
    places = [
        (outer.index(g.path[0].key), inner.index(g.path[1].key)) if g.known
        else (-1, -1)
        for g in grouping.groups
    ]  # fmt: skip
    row, column = np.array(places)[grouping.code].T
    drawn = part.out.drawn if part.out.held is not None else part.out.values
    found = two_way(drawn[grouping.at], row, len(outer), column, len(inner))
    p = found.interaction.p
    if p != p:
        return []
    if p < 0.05:
        text = (
            f"How far the groups by {grouping.within} are apart depends on the {grouping.label} "
            f"(p = {p:.3f})." if p >= 0.001 else
            f"How far the groups by {grouping.within} are apart depends on the {grouping.label} "
            "(p below 0.001)."
        )  # fmt: skip
        return [Reading(kind="size", rows=[], text=text)]
    text = (
        f"Nothing shows that the gap by {grouping.within} depends on the {grouping.label} "
        f"(p = {p:.2f})."
    )
    return [Reading(kind="unclear", rows=[], text=text)]


def _thing(grouping: Grouping) -> str:
    return grouping.label if grouping.label in ("school", "class", "teacher") else "group"


def _chance(grouping: Grouping, rows: list[Row]) -> list[Reading]:
    """What equal groups would give, and whether these differ at all."""
    told = [row for row in rows if row.verdict not in ("few", "none")]
    said = _chance_of(told, _thing(grouping))
    shrunk = any(row.se_kind == "comparative" for row in told)
    if said and grouping.within_school and not grouping.overlaps and not shrunk:
        means = np.array([row.span for row in told], dtype=float)
        errors = np.array([row.se for row in told], dtype=float)
        test = heterogeneity(means, errors)
        if test.p >= 0.05:
            text = "They do not differ from one another by more than chance would give."
            said.append(Reading(kind="chance", rows=[], text=text))
    return said


def _chance_of(told: list[Row], thing: str) -> list[Reading]:
    if len(told) < 2:
        return []
    line = chance_line(len(told))
    text = (
        f"{count(len(told), thing)}: if none truly differed, "
        f"{number(line.expected)} would lie outside their interval by chance ({line.low} to "
        f"{line.high})."
    )
    marked = sum(row.verdict in ("ahead", "behind") for row in told)
    if marked:
        text += " Of the rows marked ▲ or ▼ about one in twenty may be chance."
    return [Reading(kind="chance", rows=[], text=text)]


def _beyond(part: Slice, kind: str, rows: list[Row]) -> list[Reading]:
    found = [row for row in rows if row.verdict == kind]
    found.sort(key=lambda row: -abs(row.span or 0.0))
    said = [_one(part, row) for row in found[:NAMED_APART]]
    rest = found[NAMED_APART:]
    if rest:
        verb = "is" if len(rest) == 1 else "are"
        text = f"{listed([r.label for r in rest])} {verb} {kind} by more than chance would give."
        said.append(Reading(kind=kind, rows=[r.key for r in rest], text=text))
    return said


def _one(part: Slice, row: Row) -> Reading:
    assert row.span is not None
    assert row.low is not None
    assert row.high is not None
    unit = part.view.quantity.unit.removeprefix("scaled-score ")
    unit = "percentage points" if unit == "%" else unit
    size = f"{number(abs(row.span))} {unit}"
    between = f"95% interval {interval(row.low, row.high)}, {count(row.n, 'student')}"
    assert part.view.yardstick is not None
    text = part.view.yardstick.said_of(row.label, row.span, size, between)
    if row.effect is not None and not part.view.yardstick.moves:
        text += f" That is {share_of_sd(row.effect)}."
    return Reading(kind=row.verdict, rows=[row.key], text=text)


def _whom(part: Slice) -> str:
    """Whom a row is ahead of, in a sentence."""
    return "the others" if part.view.yardstick is None else part.view.yardstick.whom


def _within(part: Slice, rows: list[Row], grouping: Grouping) -> list[Reading]:
    said = []
    alike = [row for row in rows if row.verdict == "alike"]
    unclear = [row for row in rows if row.verdict == "unclear"]
    thing = _thing(grouping)
    if alike:
        verb = "is" if len(alike) == 1 else "are"
        text = (
            f"{listed([r.label for r in alike])} {verb} shown to be close to {_whom(part)}: "
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


def _said(part: Slice, value: float | None) -> str:
    """A mean, or a share in percent."""
    return number(value or 0.0) + ("%" if part.view.quantity.is_share else "")


def _without_yardstick(part: Slice, rows: list[Row], reference: list[Row]) -> list[Reading]:
    told = sorted((row for row in rows if row.value is not None), key=lambda r: r.value or 0.0)
    said = []
    if len(told) > 1:
        low, high = told[0], told[-1]
        things = "Shares" if part.view.quantity.is_share else "Means"
        text = (
            f"{things} run from {_said(part, low.value)} ({low.label}, {count(low.n, 'student')}) "
            f"to {_said(part, high.value)} ({high.label}, {count(high.n, 'student')})."
        )
        said.append(Reading(kind="list", rows=[low.key, high.key], text=text))
    elif told:
        row = told[0]
        thing = "share" if part.view.quantity.is_share else "mean"
        text = f"{row.label}: a {thing} of {_said(part, row.value)} ({count(row.n, 'student')})."
        said.append(Reading(kind="list", rows=[row.key], text=text))
    for row in reference:
        if row.value is not None and row.low is not None and row.high is not None:
            text = (
                f"{row.label} together: {_said(part, row.value)} "
                f"(95% interval {interval(row.low, row.high)}, {count(row.n, 'student')})."
            )
            said.append(Reading(kind="list", rows=[row.key], text=text))
    said += _interacting(part)
    text = (
        "This does not allow for where they started: measure it against that before "
        "anybody is praised or blamed."
    )
    return [*said, Reading(kind="none", rows=[], text=text), *_few(rows)]

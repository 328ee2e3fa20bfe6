"""What it says: the chart read aloud, by rules that never claim more than the intervals do."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.figures.sample import in_each
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.words.intake import intake_correlation
from bridge_chart.answers.words.within_schools import within_schools
from bridge_chart.core.contrasts.differ import splits_interact
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT
from bridge_chart.terms.answer import Reading, Row
from bridge_chart.terms.wording import count, interval, listed, number, plural, share_of_sd, signed

NAMED_APART = 3
INTERACTION_P, INTERACTION_BESIDE_MARKS = 0.05, 0.01
"""Beside marks, which are a family at 5% already, it takes more to say this too."""
INTAKE_P = 0.01
"""It is looked at whatever is asked, so it is said only where chance would seldom give it."""


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
    said = _chance(rows, _thing(grouping)) + _ranked(rows, grouping)
    for kind in ("behind", "ahead"):
        said += _beyond(part, kind, rows)
    said += _within(part, rows, grouping) + _without_verdict(part, rows)
    said += _interacting(part) + within_schools(part, rows)
    return said + _intake(part, rows) + _few(rows)


def _of_several(parts: Sequence[Slice], rows: list[Row]) -> list[Reading]:
    """For each measure its rows beyond chance, or its lowest where the order is a fact; all
    verdicts together are held against chance once."""
    said = _chance(rows)
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
    return said + _without_verdict(parts[0], rows) + _few(rows)


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
        return [Reading(kind="trust", rows=[last.key], text=text[:1].upper() + text[1:])]
    text = f"{where}{lowest}, but {place}: the order says little; don't rank them."
    return [Reading(kind="unclear", rows=[last.key], text=text[:1].upper() + text[1:])]


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
    p = in_each(part.view, part.out, lambda one: splits_interact(one, grouping.at, row, column).p)
    if p != p:
        return []
    if p < (INTERACTION_BESIDE_MARKS if part.out.spans else INTERACTION_P):
        text = (
            f"How far the groups by {grouping.within} are apart depends on the {grouping.label} "
            f"(p = {number(p, 3)})." if p >= 0.001 else
            f"How far the groups by {grouping.within} are apart depends on the {grouping.label} "
            "(p below 0.001)."
        )  # fmt: skip
        return [Reading(kind="size", rows=[], text=text)]
    text = (
        f"Nothing shows that the gap by {grouping.within} depends on the {grouping.label} "
        f"(p = {number(p, 2)})."
    )
    return [Reading(kind="unclear", rows=[], text=text)]


def _thing(grouping: Grouping) -> str:
    return grouping.label if grouping.label in ("school", "class", "teacher") else "group"


def _chance(rows: list[Row], thing: str = "row") -> list[Reading]:
    """How many of the marks may be chance; without marks there is nothing to say."""
    marked = [row for row in rows if row.verdict in ("ahead", "behind")]
    if not marked:
        return []
    judged = count(sum(row.verdict not in ("few", "none") for row in rows), thing)
    text = (
        f"{judged} were judged together; of those marked ▲ or ▼ about one in twenty may be chance."
    )
    return [Reading(kind="chance", rows=[], text=text)]


def _without_verdict(part: Slice, rows: list[Row]) -> list[Reading]:
    """Rows of which nothing is judged, or that lost a mark, and why."""
    yardstick = part.view.yardstick
    whom = "it" if yardstick is None else yardstick.whom
    words: dict[str, str] = {
        "by_construction": f"are not judged: what {whom} reach is worked out of just these "
        "students, so on average they are where they are expected by construction",
        "whole": "are not judged: there are no others to hold them against",
        "chosen_by_outcome": "are not judged: these students were chosen by the result itself",
        "start": "would be told from chance if where they started were measured without error; "
        "with a reliability between .80 and .95 that is not sure, so it may be error in the start",
    }  # fmt: skip
    said = []
    for because, text in words.items():
        mine = [row for row in rows if row.because == because]
        if because == "start":
            mine = [row for row in mine if row.verdict in ("unclear", "alike")]
        if not mine:
            continue
        text = text.replace("are not", "is not", 1) if len(mine) == 1 else text
        named = f"{listed([row.label for row in mine], 4)} {text}."
        kind: Literal["none", "unclear"] = "unclear" if because == "start" else "none"
        said.append(Reading(kind=kind, rows=[row.key for row in mine], text=named))
    return said


def _intake(part: Slice, rows: list[Row]) -> list[Reading]:
    """Whether rows that started higher also come out further ahead: then the line may not allow
    for all of where they started."""
    found = intake_correlation(part.out, part.grouping)
    if found is None or not found[1] < INTAKE_P:
        return []
    way = "higher" if found[0] > 0 else "lower"
    text = (
        f"Groups that started {way} come out further ahead (correlation "
        f"{number(found[0], 2)} over {len(rows)} rows): the line may not allow for all of where "
        "they started."
    )
    return [Reading(kind="trust", rows=[], text=text)]


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
    if part.view.yardstick.moves:
        text += f" That is {'more' if row.verdict == 'ahead' else 'less'} than the others moved."
    elif row.effect is not None:
        text += f" That is {share_of_sd(row.effect)}."
    return Reading(kind=row.verdict, rows=[row.key], text=text)


def _whom(part: Slice) -> str:
    """Whom a row is ahead of, in a sentence."""
    return "the others" if part.view.yardstick is None else part.view.yardstick.whom


def _within(part: Slice, rows: list[Row], grouping: Grouping) -> list[Reading]:
    said = []
    alike = [row for row in rows if row.verdict == "alike"]
    unclear = [row for row in rows if row.verdict == "unclear" and row.because is None]
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
        if part.view.yardstick is not None and part.view.yardstick.moves:
            who = unclear[0].label if len(unclear) == 1 else count(len(unclear), thing)
            text = f"{who}: no more and no less than the others moved, as far as can be told."
        elif len(unclear) == 1:
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
    """Rows that cannot be judged, by what they have too little of."""
    few = [row for row in rows if row.verdict == "few"]
    students = [row for row in few if row.n < FEWEST_FOR_VERDICT]
    others = [row for row in few if row.n >= FEWEST_FOR_VERDICT]
    shrunken = [row for row in others if row.reliability is not None]
    classes = [row for row in others if row.reliability is None]
    said = []
    if len(students) == 1:
        row = students[0]
        text = f"{row.label} has only {count(row.n, 'student')} counted: too few to judge."
        said.append(Reading(kind="few", rows=[row.key], text=text))
    elif students:
        text = f"{listed([row.label for row in students])} have too few students to judge."
        said.append(Reading(kind="few", rows=[row.key for row in students], text=text))
    if shrunken:
        names = listed([row.label for row in shrunken])
        text = f"{names}: the reliability of the figure is below .5, too little to judge it by."
        said.append(Reading(kind="few", rows=[row.key for row in shrunken], text=text))
    if classes:
        names = listed([row.label for row in classes])
        text = f"{names}: too few classes to tell what classes add from more."
        said.append(Reading(kind="few", rows=[row.key for row in classes], text=text))
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
    said += _interacting(part) + within_schools(part, rows)
    text = (
        "This does not allow for where they started: measure it against that before "
        "anybody is praised or blamed."
    )
    return [*said, Reading(kind="none", rows=[], text=text), *_few(rows)]

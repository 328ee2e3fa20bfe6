"""Is a question harder for one group among students with equal totals?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.answers.figures.sat import Sat, sat_by
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.bias.body import BiasBody, BiasGroup, BiasOfGroup, BiasRow, Size
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.core.arrays import Mask
from bridge_chart.core.items.functioning import (
    FEWEST_PER_GROUP,
    FunctioningOfTest,
    differential_functioning,
)
from bridge_chart.core.trust.discoveries import discoveries
from bridge_chart.terms.answer import Method, Reading, Verdict
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.wording import count, listed, plain

MOST_GROUPS = 6
NAMED = 4
REACH = 1.959964
"""Standard errors to either end of a 95% interval."""
SIZES: dict[str, Size] = {"A": "slight", "B": "moderate", "C": "large", "": ""}


@dataclass(frozen=True)
class Judged:
    """A test for one group, and which of its questions stand among all that are judged."""

    found: FunctioningOfTest
    stands: Mask


def bias_shown(parts: Sequence[Slice]) -> Shown:
    """Each group of the split against all others, question by question."""
    part = parts[0]
    sat = sat_by(part)
    least = 1 if sat.others is not None else 2
    if not least <= len(sat.members) <= MOST_GROUPS:
        raise InvalidQuestion(
            f"Fairness takes a split of {least} to {MOST_GROUPS} groups.",
            next_step="Split by one characteristic.",
        )
    judged = _judged(sat)
    body = _body(part, sat, judged)
    return Shown(
        body=body,
        coverage=[coverage(part.view, part.people, part.out.reasons)],
        readings=_readings(body),
        method=Method(
            name="Questions that work differently",
            says=[
                "Students of a group beside the others (of the yardstick, else of the split) who "
                "have the same total: by "
                "the odds of getting a question right, or by the mean of its marks. The question "
                "itself stays in its total, others that stand out leave it.",
                "Moderate from a difference of 1 on the scale of odds (5% of the marks), large "
                f"from {plain(1.5)} (10%) and surely above 1; a mark's interval in points must "
                "lie on one side too. False discoveries are held to 5% "
                "over all questions and groups.",
                "It is no proof of bias: a question may be unfair, or ask what a group was not "
                "taught.",
            ],
            facts={"fewest": FEWEST_PER_GROUP},
            page="methods/differential-functioning.md",
        ),
    )


def _judged(sat: Sat) -> list[Judged]:
    """Each group against those of the yardstick who are not in it, else against the other groups.
    Two groups of a split are held against each other once: the second against the first."""
    once = sat.others is None and len(sat.members) == 2
    found = [
        differential_functioning(
            sat.sheet.marks, np.where(mine, 1, np.where(sat.everyone, 0, -1)).astype(np.int64)
        )
        for mine in sat.members[1 if once else 0 :]
    ]
    p = np.concatenate([[one.p for one in test.questions] for test in found] or [[]])
    stands, judged, at = discoveries(np.asarray(p, np.float64)), [], 0
    for test in found:
        judged.append(Judged(test, stands[at : at + len(test.questions)]))
        at += len(test.questions)
    return judged


def _body(part: Slice, sat: Sat, judged: list[Judged]) -> BiasBody:
    sheet, groups = sat.sheet, list(part.grouping.groups)
    sizes = np.bincount(part.grouping.code, minlength=len(groups))
    first = len(groups) - len(judged)
    return BiasBody(
        show="bias",
        dimension=part.grouping.label,
        groups=[
            BiasGroup(
                key=groups[at].name, label=groups[at].label, n=int(sat.members[at].sum()),
                missing=int(sizes[at] - sat.members[at].sum()), reached=one.found.n_focal,
                rest=one.found.n_reference, why=one.found.reason,
                opens=opens(part.view, groups[at]),
            )
            for at, one in enumerate(judged, start=first)
        ],
        rows=[
            BiasRow(
                key=f"question:{name}", label=name, place=n + 1,
                maximum=float(sheet.marks.maxima[n]), about=dict(info.tags) if info else {},
                of=[_of_group(one, n, float(sheet.marks.maxima[n])) for one in judged],
            )
            for n, (name, info) in enumerate(zip(sheet.questions, sheet.infos, strict=True))
            if not (info and info.whole)
        ],
        missing=int(np.count_nonzero(sat.everyone & ~sheet.marks.complete)),
    )  # fmt: skip


def _of_group(judged: Judged, n: int, maximum: float) -> BiasOfGroup:
    if not judged.found.questions:
        return BiasOfGroup()
    one = judged.found.questions[n]
    reach = REACH * one.difference_se
    # By the odds and by the marks: no mark stands beside an interval that holds nothing.
    stands = bool(judged.stands[n]) and one.category in ("B", "C") and abs(one.difference) > reach
    size = one.difference if np.isnan(one.delta) else one.delta
    verdict: Verdict = "unclear" if not stands else "behind" if size < 0 else "ahead"
    return BiasOfGroup(
        difference=_told(one.difference / maximum), low=_told((one.difference - reach) / maximum),
        high=_told((one.difference + reach) / maximum), delta=_told(one.delta),
        delta_low=_told(one.delta - REACH * one.se), delta_high=_told(one.delta + REACH * one.se),
        p=_told(one.p), size=SIZES[one.category], verdict=verdict,
    )  # fmt: skip


def _told(value: float) -> float | None:
    return None if np.isnan(value) else float(value)


def _readings(body: BiasBody) -> list[Reading]:
    said, both = [], False
    for at, group in enumerate(body.groups):
        found = [
            _of_one(body, at, group.label, "behind", "harder"),
            _of_one(body, at, group.label, "ahead", "easier"),
        ]
        said += [one for one in found if one is not None]
        both |= None not in found
    if said:
        text = (
            "Have somebody read them: a question may be unfair, or ask what a group was not "
            "taught. It is no proof of bias."
        )
        if both:
            text += " Where many lie one way, a few others seem to lie the other way."
        said.append(Reading(kind="trust", rows=[], text=text))
    elif any(not group.why for group in body.groups):
        said.append(Reading(kind="list", rows=[], text=(
            f"None of {count(len(body.rows), 'question')} works differently for a group with the "
            "same total by more than chance and more than slightly."
        )))  # fmt: skip
    few = [group.label for group in body.groups if group.why]
    if few:
        said.append(Reading(kind="few", rows=[], text=(
            f"Not judged, for that takes {FEWEST_PER_GROUP} students on either side: "
            f"{listed(few, NAMED)}."
        )))  # fmt: skip
    return said


def _of_one(
    body: BiasBody, at: int, group: str, kind: Literal["behind", "ahead"], word: str
) -> Reading | None:
    mine = [row for row in body.rows if row.of[at].verdict == kind]
    if not mine:
        return None
    text = (
        f"Among students with equal totals {count(len(mine), 'question')} "
        f"{'is' if len(mine) == 1 else 'are'} {word} for {group} than for the others: "
        f"{listed([row.label for row in mine], NAMED)}."
    )
    return Reading(kind=kind, rows=[row.key for row in mine], text=text)

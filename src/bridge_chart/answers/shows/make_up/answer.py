"""Make-up: who the students of a set are, against the rest of the population."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.filter import Filter, holds, known
from bridge_chart.answers.bound.names import grouping
from bridge_chart.answers.bound.split import Group
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.sample import estimated_on, sampled
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.make_up.body import MakeUpBody, MakeUpEntry
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.contrasts.rows import Sample, against_rest
from bridge_chart.core.gaps.make_up import make_up
from bridge_chart.core.trust.discoveries import discoveries
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.wording import amount, count, listed

FEWEST = 10
"""Students of the set, and of everyone, behind a category that is judged."""


def make_up_shown(parts: Sequence[Slice]) -> Shown:
    """The population is the base, `focus` the set."""
    part = parts[0]
    view, size = part.view, part.view.snapshot.students
    if not view.focus:
        raise InvalidQuestion(
            "A make-up must have a set: the conditions in “focus”.",
            next_step="Choose a set, for example those below expectation.",
        )
    everyone = part.people & view.meant
    base = everyone & known(view.focus, size)
    inside = holds(view.focus, size) & base
    entries, unknown = _entries(view, base, inside)
    body = MakeUpBody(
        show="make_up",
        set_label=" and ".join(f.text for f in view.focus),
        set_size=int(inside.sum()),
        rest_size=int(base.sum() - inside.sum()),
        unknown=unknown,
        left_out=int(everyone.sum() - base.sum()),
        entries=entries,
        opens=q.Open(add=_of_set(view.focus), what=view.stands),
    )
    return Shown(
        body=body,
        coverage=[coverage(view, part.people, part.out.reasons)],
        readings=_readings(body),
        method=Method(
            name="Make-up of a set",
            says=[
                "Each category's share in the set, beside its share in the rest.",
                "Students who lack the figures that decide are in neither. "
                "Ratio of the two with its 95% interval; small cells by Fisher's exact test.",
                "Students of one class are not taken as independent. More or fewer is said only "
                "where it holds with 5% false discoveries over all categories shown.",
            ],
            facts={"fewest": FEWEST},
            page="methods/make-up.md",
        ),
    )


def _of_set(focus: Sequence[Filter]) -> tuple[q.Condition, ...]:
    """What opens the set: its conditions, and that they can be said."""
    asked = tuple(one.asked for one in focus)
    undecided = any(one.decided is not None for one in focus)
    return (*asked, q.Known(known=asked)) if undecided else asked


def _dimensions(view: View) -> list[q.Dimension]:
    """What the question is split by first, then every characteristic and where they are."""
    asked = [one.asked for one in view.split]
    known: list[q.Dimension] = [
        q.ByCharacteristic(characteristic=c.id) for c in grouping(view.snapshot)
    ]
    known += [q.ByField(field="year_level"), q.ByField(field="school")]
    return [*asked, *(one for one in known if one not in asked)]


def _entries(view: View, base: Mask, inside: Mask) -> tuple[list[MakeUpEntry], int]:
    """An entry for every category; and how many of the set have some characteristic unknown."""
    rows: list[MakeUpEntry] = []
    sample = _in_the_set(view, base, inside)
    unknown: Mask = np.zeros(len(base), bool)
    for dimension in _dimensions(view):
        split = view.split_by(dimension)
        grouping, label = split.group(base), split.label
        told = grouping.known()
        if told.sum() < 2:
            continue
        held = inside[grouping.at]
        size = len(grouping.groups)
        in_set = np.bincount(grouping.code[held], minlength=size)
        in_all = np.bincount(grouping.code, minlength=size)
        apart = against_rest(sample, grouping.at, grouping.code, size, base).p
        unknown[grouping.at[held & ~told[grouping.code]]] = True
        rows += _of_dimension(
            view, label, grouping.groups, told, np.stack([in_set, in_all - in_set]), apart
        )
    stands = discoveries(np.array([np.nan if r.p is None else r.p for r in rows]))
    return [_judged(row, bool(hit)) for row, hit in zip(rows, stands, strict=True)], int(
        unknown.sum()
    )


def _in_the_set(view: View, base: Mask, inside: Mask) -> Sample:
    """Being in the set as a figure, 100 or 0, with what classes add to it."""
    values = np.where(base, 100.0 * inside, np.nan)
    found = estimated_on(view.snapshot, view.measure, values)
    return sampled(view.snapshot, view.measure, values, found, share=True)


def _of_dimension(
    view: View, label: str, groups: Sequence[Group], known: Mask, counts: Integers, apart: Floats
) -> list[MakeUpEntry]:
    """Shares are of those whose value is known. counts: (2, groups), in the set and in the rest;
    apart: (groups,) p that a category's share in the set is that of the others."""
    in_set, in_rest = counts
    assert view.focus is not None
    of_set = _of_set(view.focus)
    set_size, rest_size = int(in_set[known].sum()), int(in_rest[known].sum())
    out = []
    for n in np.flatnonzero(known):
        found = make_up(int(in_set[n]), set_size, int(in_rest[n]), rest_size)
        ratio, low, high = found.against_rest
        p = float(np.fmax(found.exact_p, apart[n]))
        group_ = groups[int(n)]
        out.append(
            MakeUpEntry(
                dimension=label,
                label=group_.label.removeprefix(f"{label}: "),
                in_set=int(in_set[n]),
                in_rest=int(in_rest[n]),
                set_share=_or_zero(found.set_share),
                rest_share=in_rest[n] / rest_size if rest_size else 0.0,
                everyone_share=_or_zero(found.everyone_share),
                ratio=_finite(ratio),
                low=_finite(low),
                high=_finite(high),
                p=_finite(float(p)),
                verdict="few" if min(in_set[n] + in_rest[n], set_size) < FEWEST else "alike",
                opens=q.Open(add=(*of_set, *group_.adds), what=view.stands),
            )
        )
    return out


def _finite(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _or_zero(value: float) -> float:
    return float(value) if np.isfinite(value) else 0.0


def _judged(row: MakeUpEntry, found: bool) -> MakeUpEntry:
    if row.verdict == "few" or not found:
        return row
    word = "more" if row.set_share > row.rest_share else "fewer"
    return row.model_copy(update={"verdict": word})


def _readings(body: MakeUpBody) -> list[Reading]:
    """The largest differences first; what is absent altogether; else that nothing differs."""
    if not body.set_size:
        return [Reading(kind="list", rows=[], text="Nobody is in the set.")]
    head = (
        f"{count(body.set_size, 'student')} in the set, {amount(body.rest_size)} in the rest "
        "of those asked about."
    )
    said = [Reading(kind="list", rows=[], text=head)]
    found = [e for e in body.entries if e.verdict in ("more", "fewer")]
    found.sort(key=lambda e: -abs(e.set_share - e.rest_share))
    # Of a characteristic with two values the one says what the other says.
    for entry in list({e.dimension: e for e in reversed(found)}.values())[::-1][:5]:
        text = (
            f"{entry.dimension}: {entry.label} is {100 * entry.set_share:.0f}% of the set "
            f"({entry.in_set} of {body.set_size}) and {100 * entry.rest_share:.0f}% of the rest."
        )
        said.append(Reading(kind="size", rows=[], text=text))
    absent = [e for e in body.entries if not e.in_set and e.in_rest >= FEWEST]
    if absent:
        names = listed([f"{e.dimension} {e.label}" for e in absent])
        said.append(Reading(kind="list", rows=[], text=f"Nobody in the set: {names}."))
    if not found:
        text = "No category is told from the rest by more than chance would give."
        said.append(Reading(kind="unclear", rows=[], text=text))
    return said

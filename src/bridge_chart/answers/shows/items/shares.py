"""Who sat a form, and the share of each row's marks that each group has won."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.bound.quantity import of_part
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.sat import Sat
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.items.body import ItemShare
from bridge_chart.answers.shows.items.rows import Rows
from bridge_chart.answers.what.nation import nation_of_part, tables_for
from bridge_chart.core.arrays import Floats
from bridge_chart.core.items.questions import Facility, facility
from bridge_chart.terms.question import Stands


def shares_of(
    part: Slice, sat: Sat, rows: Rows, groups: Sequence[int] | None = None
) -> list[list[ItemShare]]:
    """For each group (of all, or of some places) and each row."""
    wanted = list(range(len(sat.members)) if groups is None else groups)
    nation = _nation(part.view, sat, rows)
    stands = [part.view.stands.model_copy(update={"part": rows.part(n)})
              for n in range(len(rows.names))]  # fmt: skip
    found = _facilities(sat, rows, wanted)
    of = np.bincount(part.grouping.code, minlength=len(sat.members))
    told_of = [
        _Told(found, place, int(of[group]), nation[group], stands)
        for place, group in enumerate(wanted)
    ]
    return [
        _of_group(part, sat, rows, group, one) for group, one in zip(wanted, told_of, strict=True)
    ]


@dataclass(frozen=True)
class _Told:
    """found: facilities, of which the group's are at `place`; of: how many the group has; nation:
    its shares; stands: what a mark of each row stands for."""

    found: Facility
    place: int
    of: int
    nation: Floats
    stands: list[Stands]


def _facilities(sat: Sat, rows: Rows, groups: Sequence[int]) -> Facility:
    """(groups, rows). Groups that share nobody are gone through at once."""
    members = sat.members[list(groups)]
    if (members.sum(axis=0) <= 1).all():
        code = np.where(members.any(axis=0), members.argmax(axis=0), -1)
        return facility(rows.marks, code, len(members))
    each = [
        facility(replace(rows.marks, marks=rows.marks.marks[mask]), np.zeros(mask.sum(), int), 1)
        for mask in members
    ]
    names = ("n", "missing", "facility", "low", "high")
    told = {name: np.concatenate([getattr(one, name) for one in each]) for name in names}
    return Facility(**told)


def _of_group(part: Slice, sat: Sat, rows: Rows, group: int, told_: _Told) -> list[ItemShare]:
    found, at = told_.found, told_.place
    omitted = np.zeros(len(rows.names), np.int64)
    if rows.by == "question":
        mask = sat.members[group]
        omitted = sat.sheet.left_out[mask][:, np.concatenate(rows.members)].sum(axis=0)
    mark = opens(part.view, part.grouping.groups[group])
    return [
        ItemShare(
            n=int(found.n[at, n]), missing=told_.of - int(found.n[at, n]),
            omitted=int(omitted[n]), not_reached=int(found.missing[at, n]),
            share=told(found.facility[at, n]), low=told(found.low[at, n]),
            high=told(found.high[at, n]), nation=told(told_.nation[n]),
            # The mark stands for one part of the test that was asked about.
            opens=mark.model_copy(update={"what": told_.stands[n]}),
        )
        for n in range(len(rows.names))
    ]  # fmt: skip


def _nation(view: View, sat: Sat, rows: Rows) -> Floats:
    """(groups, rows) the nation's share, by the forms and year levels of each group's students;
    NaN where a table is lacking for some of them."""
    snapshot, quantity = view.snapshot, view.quantity
    size = sat.members.sum(axis=1).astype(np.float64)
    found = np.zeros((len(size), len(rows.names)))
    covered = np.zeros(len(size))
    parts = [of_part(quantity, PartId(rows.by, name), "percent") for name in rows.names]
    for mask, table in tables_for(snapshot, quantity.key, "raw"):
        weight = (sat.members & mask[sat.sheet.at]).sum(axis=1)
        if not weight.any():
            continue
        told = [nation_of_part(snapshot, one, table) for one in parts]
        shares = np.array([np.nan if one is None else one / 100 for one in told])
        found += weight[:, None] * shares
        covered += weight
    whole = (covered == size) & (size > 0)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(whole[:, None], found / size[:, None], np.nan)


def told(value: float | Floats) -> float | None:
    """As an answer writes a figure: NaN is none."""
    return None if np.isnan(value) else float(value)

"""Who sat a form, and the share of each row's marks that each group has won."""

from __future__ import annotations

from dataclasses import replace

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
from bridge_chart.core.items.questions import facility


def shares_of(part: Slice, sat: Sat, rows: Rows) -> list[list[ItemShare]]:
    """For each group, for each row."""
    nation = _nation(part.view, sat, rows)
    return [_of_group(part, sat, rows, group, nation[group]) for group in range(len(nation))]


def _of_group(part: Slice, sat: Sat, rows: Rows, group: int, nation: Floats) -> list[ItemShare]:
    view, mask = part.view, sat.members[group]
    mine = replace(rows.marks, marks=rows.marks.marks[mask])
    found = facility(mine, np.zeros(len(mine.marks), np.int64), 1)
    omitted = np.zeros(len(rows.names), np.int64)
    if rows.by == "question":
        omitted = sat.sheet.left_out[mask][:, np.concatenate(rows.members)].sum(axis=0)
    mark = opens(view, part.grouping.groups[group])
    of = int(np.count_nonzero(part.grouping.code == group))
    return [
        ItemShare(
            n=int(found.n[0, n]), missing=of - int(found.n[0, n]), omitted=int(omitted[n]),
            not_reached=int(found.missing[0, n]), share=told(found.facility[0, n]),
            low=told(found.low[0, n]), high=told(found.high[0, n]), nation=told(nation[n]),
            # The mark stands for one part of the test that was asked about.
            opens=mark.model_copy(
                update={"what": view.stands.model_copy(update={"part": rows.part(n)})}
            ),
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

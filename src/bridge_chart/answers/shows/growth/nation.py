"""Where students stand in the nation at two sittings: whose rank fell though the score rose."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.against.start_error import start_reliability
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.what.nation import percentile_ranks, tables_for
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.growth.falls import falls_beyond_by_error, rank_falls_by_error, rank_fell
from bridge_chart.core.growth.gains import falling_behind
from bridge_chart.store.snapshot import Snapshot


@dataclass(frozen=True)
class InTheNation:
    """All (students,). both: a national figure at both sittings; fell: the rank fell though the
    score rose; alone: the chance of that by error alone, NaN where no reliability is declared;
    beyond: fell beyond error; chance: of that by error alone; then, now: percentile ranks. lacks:
    why nothing is known."""

    both: Mask
    fell: Mask
    alone: Floats
    beyond: Mask
    chance: Floats
    then: Floats
    now: Floats
    lacks: str = ""


def in_the_nation(snapshot: Snapshot, own: Quantity, earlier: Quantity) -> InTheNation:
    """The two sittings beside each other."""
    before, after = (np.asarray(figures_of_students(snapshot, q)) for q in (earlier, own))
    mean_before, sd_before = _nation(snapshot, earlier)
    mean_now, sd_now = _nation(snapshot, own)
    z_before, z_now = (before - mean_before) / sd_before, (after - mean_now) / sd_now
    needed = (before - mean_now) / sd_now
    both = ~np.isnan(z_before) & ~np.isnan(z_now)
    exact = [start_reliability(snapshot, (q,)) for q in (earlier, own)]
    together = np.sqrt(exact[0] * exact[1])
    errors = [np.nan_to_num(np.sqrt(1 - one), nan=np.inf) for one in exact]
    beyond = falling_behind(before, after, z_before, z_now, *errors)
    lacks = "" if both.any() else (
        f"the nation's mean and spread are not known at both {earlier.key.sitting.name} and "
        f"{own.key.sitting.name}, so no rank can be said to have fallen"
    )  # fmt: skip
    return InTheNation(
        both=both,
        fell=both & rank_fell(before, after, z_before, z_now),
        alone=rank_falls_by_error(z_before, needed, together),
        beyond=both & beyond,
        chance=falls_beyond_by_error(z_before, needed, *errors),
        then=percentile_ranks(snapshot, earlier),
        now=percentile_ranks(snapshot, own),
        lacks=lacks,
    )


def _nation(snapshot: Snapshot, quantity: Quantity) -> tuple[Floats, Floats]:
    """(students,) the nation's mean and sd of each one's form and year level; NaN without."""
    mean, sd = (np.full(snapshot.students, np.nan) for _ in range(2))
    for rows, table in tables_for(snapshot, quantity.key, quantity.score):
        if table.mean is not None and table.sd is not None and table.sd > 0:
            mean[rows], sd[rows] = table.mean, table.sd
    return mean, sd

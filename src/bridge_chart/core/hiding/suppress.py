"""Which cells to hide so that no hidden number can be worked out from those shown."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.hiding.attack import attack
from bridge_chart.core.hiding.lattice import Lattice, Release, release_of
from bridge_chart.core.hiding.shares import FEWEST_SHOWN

WIDTH = 5
MOST_ROUNDS = 400


@dataclass(frozen=True)
class Suppressed:
    """A release that the attacker cannot narrow, what it cost, and what could not be helped.

    primary: hidden for being small; for_others: counts hidden to protect others; shares_hidden:
    shares hidden though the count is shown. unprotected: hidden cells that stay narrow even with
    everything else hidden (the whole is itself too small).
    """

    release: Release
    primary: int
    for_others: int
    shares_hidden: int
    rounds: int
    unprotected: tuple[int, ...]


class OutOfTime(Exception):
    """What to hide was not found in the time that was given: nothing of it may be shown."""


def suppress(
    lattice: Lattice,
    fewest: int = FEWEST_SHOWN,
    width: int = WIDTH,
    *,
    hits: bool = True,
    seconds: float | None = None,
) -> Suppressed:
    """Hide small cells, then as little else as will protect them.

    Primary: n < `fewest`. Then, as long as an attacker who sees everything can bound a hidden
    count, or hidden hits, within `width` (or a masked share more closely than its mask): the
    cheapest further cells to hide (students lost, margins dearer) such that two tables that both
    fit what is shown differ by `width` there, by mixed-integer programming (Fischer & Salazar
    2001), one exposed cell after the other. Solve once per release and keep the pattern.
    hits: whether shares are shown too, else counts alone. Errors: OutOfTime after so many seconds.

    >>> from bridge_chart.core.hiding.lattice import lattice_of
    >>> made = lattice_of([np.repeat([0, 1, 2], [22, 14, 4])], [3], np.tile([True, False], 20), [])
    >>> suppress(made).release.count_shown.tolist()
    [True, True, False, False]
    """
    count = np.asarray(lattice.n < fewest)
    share = count.copy()
    given_up: set[tuple[int, int]] = set()
    rounds = 0
    until = None if seconds is None else time.monotonic() + seconds
    while rounds < MOST_ROUNDS:
        found_open = _exposed(lattice, count, share, width)
        exposed = [e for e in found_open if e[:2] not in given_up and (hits or e[1] == 0)]
        if not exposed:
            break
        changed = False
        for cell, layer, need in exposed:
            rounds += 1
            if until is not None and time.monotonic() > until:
                raise OutOfTime
            found = _more(lattice, count, share, (cell, layer, need), again=not changed)
            if found is not None:
                count, share = count | found[0], share | found[0] | found[1]
                changed = True
            elif not changed:
                given_up.add((cell, layer))
                break
    small = lattice.n < fewest
    return Suppressed(
        release_of(lattice, count, share), int(small.sum()), int((count & ~small).sum()),
        int((share & ~count).sum()), rounds, tuple(sorted({cell for cell, _ in given_up})),
    )  # fmt: skip


def _exposed(lattice: Lattice, count: Mask, share: Mask, width: int) -> list[tuple[int, int, int]]:
    """(cell, layer 0 count or 1 hits, the width it needs) of everything bounded too closely."""
    release = release_of(lattice, count, share)
    found = attack(release)
    out = []
    for c in range(len(lattice.cells)):
        if count[c] and found.n_high[c] - found.n_low[c] < width:
            out.append((c, 0, width))
        shown = release.shares[c]
        room = found.hits_high[c] - found.hits_low[c]
        need = min(width, int(lattice.n[c])) if count[c] or shown is None else 0
        if shown is not None and shown.masked:
            need = min(width, shown.highest - shown.lowest)
        if room < need:
            out.append((c, 1, need))
    return out


def _more(
    lattice: Lattice, count: Mask, share: Mask, exposed: tuple[int, int, int], again: bool
) -> tuple[Mask, Mask] | None:
    """What else to hide; None where nothing helps, or what was hidden meanwhile has helped.

    again: fractions can move where whole students cannot: then ask for more room."""
    cell, layer, need = exposed
    for more in (0, 1, 2, 3) if again else (0,):
        hide = _cheapest(lattice, count, share, cell, layer, need + more)
        if hide is None:
            return None
        if (hide[0] & ~count).any() or (hide[1] & ~share).any():
            return hide
    return None


def _cheapest(
    lattice: Lattice, count: Mask, share: Mask, cell: int, layer: int, need: int
) -> tuple[Mask, Mask] | None:
    """Counts and shares to hide so that the cell can move by `need`; None where nothing helps.

    Unknowns: per cell the moves of n and hits in two tables (up and down), and whether its count
    and its share are hidden (0 or 1)."""
    k = len(lattice.cells)
    release = release_of(lattice, count, share)
    room = 2.0 * need
    low, high = np.empty(2 * k), np.empty(2 * k)
    for c in range(k):
        low[c] = high[c] = 0.0
        shown = release.shares[c]
        low[k + c] = shown.lowest - lattice.hits[c] if shown else 0.0
        high[k + c] = shown.highest - lattice.hits[c] if shown else 0.0
    hits_and_n = np.concatenate([lattice.n, lattice.hits]).astype(np.float64)
    down = np.minimum(room, hits_and_n)
    rows = _Rows(6 * k)
    for table in (0, 2 * k):
        for v in range(2 * k):
            hide = 4 * k + v  # v < k: the count's switch; else the share's
            rows.add([(table + v, 1.0), (hide, down[v])], low[v], np.inf)
            rows.add([(table + v, 1.0), (hide, -room)], -np.inf, high[v])
            rows.add([(table + v, 1.0)], -hits_and_n[v], np.inf)
        for whole, parts in lattice.sums:
            for part in (0, k):
                terms = [(table + part + whole, 1.0), *((table + part + p, -1.0) for p in parts)]
                rows.add(terms, 0.0, 0.0)
        for c in range(k):
            rows.add(
                [(table + c, 1.0), (table + k + c, -1.0)], float(lattice.hits[c] - lattice.n[c]),
                np.inf,
            )  # fmt: skip
    for c in range(k):
        rows.add([(5 * k + c, 1.0), (4 * k + c, -1.0)], 0.0, np.inf)
    at = layer * k + cell
    rows.add([(at, 1.0), (2 * k + at, -1.0)], float(need), np.inf)
    lower = np.concatenate([np.full(4 * k, -room), count.astype(float), share.astype(float)])
    upper = np.concatenate([np.full(4 * k, room), np.ones(2 * k)])
    integral = np.concatenate([np.zeros(4 * k, np.int64), np.ones(2 * k, np.int64)])
    goal = np.concatenate([np.zeros(4 * k), _costs(lattice)])
    found = milp(
        goal, constraints=rows.constraint(), bounds=Bounds(lower, upper), integrality=integral,
        options={"mip_rel_gap": 0.01, "time_limit": 20.0},
    )  # fmt: skip
    if found.x is None:
        return None
    return found.x[4 * k : 5 * k] > 0.5, found.x[5 * k :] > 0.5


def _costs(lattice: Lattice) -> Floats:
    """Hiding a count costs its students, a share half of that; a margin ten times, everyone
    a thousand times as much."""
    dear: Integers = np.array([{0: 1000, 1: 10}.get(len(c.fields), 1) for c in lattice.cells])
    cost = (lattice.n + 1.0) * dear
    return np.concatenate([cost, cost / 2])


class _Rows:
    """Linear rules gathered row by row."""

    def __init__(self, columns: int) -> None:
        self.columns = columns
        self.row: list[int] = []
        self.column: list[int] = []
        self.value: list[float] = []
        self.low: list[float] = []
        self.high: list[float] = []

    def add(self, terms: list[tuple[int, float]], low: float, high: float) -> None:
        for column, value in terms:
            self.row.append(len(self.low))
            self.column.append(column)
            self.value.append(value)
        self.low.append(low)
        self.high.append(high)

    def constraint(self) -> LinearConstraint:
        shape = (len(self.low), self.columns)
        table = sparse.csr_array((self.value, (self.row, self.column)), shape=shape)
        return LinearConstraint(table, self.low, self.high)

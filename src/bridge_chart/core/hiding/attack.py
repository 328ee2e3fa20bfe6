"""An attacker: what everything shown, taken together, gives away of what is hidden."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.hiding.lattice import Release


@dataclass(frozen=True)
class Bounded:
    """(cells,): the fewest and most students, and hits, that fit everything shown."""

    n_low: Integers
    n_high: Integers
    hits_low: Integers
    hits_high: Integers


@dataclass(frozen=True)
class _System:
    """Unknowns [n of all cells, hits of all cells], their bounds, and all that adds up."""

    lower: Floats
    upper: Floats
    rules: LinearConstraint


def _system(release: Release) -> _System:
    lattice = release.lattice
    k, everyone = len(lattice.cells), float(lattice.n.max(initial=0)) * 2 + 100
    lower, upper = np.zeros(2 * k), np.full(2 * k, everyone)
    for c in range(k):
        if release.count_shown[c]:
            lower[c] = upper[c] = lattice.n[c]
        share = release.shares[c]
        if share is not None:
            lower[k + c], upper[k + c] = share.lowest, share.highest
    rows, columns, values, low, high = [], [], [], [], []
    row = 0
    for whole, parts in lattice.sums:
        for layer in (0, k):
            rows += [row] * (len(parts) + 1)
            columns += [layer + whole, *(layer + p for p in parts)]
            values += [1.0] + [-1.0] * len(parts)
            low.append(0.0)
            high.append(0.0)
            row += 1
    for c in range(k):  # nobody reaches the mark who is not there
        rows += [row, row]
        columns += [c, k + c]
        values += [1.0, -1.0]
        low.append(0.0)
        high.append(np.inf)
        row += 1
    table = sparse.csr_array((values, (rows, columns)), shape=(row, 2 * k))
    return _System(lower, upper, LinearConstraint(table, low, high))


def attack(release: Release) -> Bounded:
    """Bounds on every count and every number of hits, from everything shown at once.

    Mixed-integer programming over whole students: sums of cells, shares as rounded or masked.
    Every table that is found along the way bounds all cells at once, so only what stays narrow is
    asked for by itself. Errors: RuntimeError where nothing fits (then what is shown is not true).

    >>> from bridge_chart.core.hiding.lattice import lattice_of, release_of
    >>> made = lattice_of([np.repeat([0, 1, 2], [22, 14, 4])], [3], np.zeros(40, bool), [])
    >>> only_four = release_of(made, made.n < 10, made.n < 10)
    >>> found = attack(only_four); int(found.n_low[3]), int(found.n_high[3])
    (4, 4)
    """
    system = _system(release)
    k = len(release.lattice.cells)
    low, high = np.full(2 * k, np.inf), np.full(2 * k, -np.inf)
    open_ended = np.flatnonzero(system.lower < system.upper)
    fixed = np.setdiff1d(np.arange(2 * k), open_ended)
    low[fixed], high[fixed] = system.lower[fixed], system.upper[fixed]
    for target in open_ended:
        for sign in (1.0, -1.0):
            goal = np.zeros(2 * k)
            goal[target] = sign
            found = milp(
                goal, constraints=system.rules, bounds=Bounds(system.lower, system.upper),
                integrality=np.ones(2 * k, np.int64),
            )  # fmt: skip
            if found.x is None:
                raise RuntimeError(f"nothing fits what is shown: {found.message}")
            table = np.rint(found.x)
            np.minimum(low, table, out=low)
            np.maximum(high, table, out=high)
    whole = low.astype(np.int64), high.astype(np.int64)
    return Bounded(whole[0][:k], whole[1][:k], whole[0][k:], whole[1][k:])

"""Expected outcomes without a curve: from a table, or from students with equal priors."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats, Integers, Mask

FEWEST_IN_CELL = 30


@dataclass(frozen=True)
class TableExpectation:
    """expected: (students,), NaN without a prior or outside the table; outside: how many."""

    expected: Floats
    outside: int


def expected_by_table(prior: Floats, starts: Floats, outcomes: Floats) -> TableExpectation:
    """Expected outcome from a table of starting points, linear between entries.

    Nothing is guessed beyond the table's ends: such students have no expectation and are counted.
    starts rise strictly, outcomes: same length; else ValueError.

    >>> t = expected_by_table(np.array([10., 15, 30, np.nan]), np.array([10., 20]),
    ...                       np.array([100., 120]))
    >>> t.expected.tolist(), t.outside
    ([100.0, 110.0, nan, nan], 1)
    """
    prior = np.asarray(prior, np.float64)
    starts, outcomes = np.asarray(starts, np.float64), np.asarray(outcomes, np.float64)
    if starts.shape != outcomes.shape or not len(starts) or np.any(np.diff(starts) <= 0):
        raise ValueError("starts must rise strictly, with one outcome each")
    inside = (prior >= starts[0]) & (prior <= starts[-1])
    found = np.where(inside, np.interp(prior, starts, outcomes), np.nan)
    return TableExpectation(found, int(np.count_nonzero(~np.isnan(prior) & ~inside)))


@dataclass(frozen=True)
class EqualPriorCells:
    """Cells of neighbouring priors; expected, cell: (students,); the rest: (cells,).

    lowest, highest: the priors that a cell spans; NaN expected where a prior lies in no cell.
    """

    expected: Floats
    cell: Integers
    n: Integers
    mean: Floats
    lowest: Floats
    highest: Floats


def equal_prior_means(
    outcome: Floats, prior: Floats, basis: Mask | None = None, fewest: int = FEWEST_IN_CELL
) -> EqualPriorCells:
    """Expected outcome = mean outcome of the students who started alike.

    Priors ascending; a cell closes as soon as it holds `fewest` students with both scores; a short
    last cell joins the one below; equal scores are never split. Fitted on `basis` (all by
    default); everyone with a prior gets the cell that reaches it (below the first the first,
    above the last the last). No student with both: no cells, all NaN.

    >>> c = equal_prior_means(np.array([1., 3, 5, 7, 9]), np.array([1., 1, 2, 3, 3]), fewest=2)
    >>> c.n.tolist(), c.mean.round(3).tolist()
    ([2, 3], [2.0, 7.0])
    """
    outcome, prior = np.asarray(outcome, np.float64), np.asarray(prior, np.float64)
    if outcome.shape != prior.shape:
        raise ValueError("outcome and prior must have one shape")
    held = ~np.isnan(outcome) & ~np.isnan(prior)
    if basis is not None:
        held &= basis
    scores, place, counts = np.unique(prior[held], return_inverse=True, return_counts=True)
    cell_of = np.empty(len(scores), np.int64)
    cell, filled = 0, 0
    for k, count in enumerate(counts):  # over distinct scores, not students
        cell_of[k] = cell
        filled += int(count)
        if filled >= fewest:
            cell, filled = cell + 1, 0
    if filled and cell > 0:  # the last cell stayed short
        cell_of[cell_of == cell] = cell - 1
        cell -= 1
    cells = cell + 1 if len(scores) and cell_of[-1] == cell else cell
    n = np.bincount(cell_of[place], minlength=cells).astype(np.int64)
    total = np.bincount(cell_of[place], outcome[held], cells)
    mean = total / np.maximum(n, 1)
    first = np.searchsorted(cell_of, np.arange(cells), side="left")
    last = np.searchsorted(cell_of, np.arange(cells), side="right") - 1
    lowest, highest = scores[first], scores[last]
    if cells == 0:
        none = np.full(prior.shape, np.nan)
        return EqualPriorCells(none, np.full(prior.shape, -1), n, mean, lowest, highest)
    known = ~np.isnan(prior)
    found = np.minimum(np.searchsorted(highest, prior, side="left"), cells - 1)
    return EqualPriorCells(
        np.where(known, mean[found], np.nan), np.where(known, found, -1), n, mean, lowest, highest
    )

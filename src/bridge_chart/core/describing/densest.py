"""Where the half of a cloud of points lies that is closest together."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter

from bridge_chart.core.arrays import Floats, Mask


def densest_half(
    x: Floats, y: Floats, x_edges: Floats, y_edges: Floats, share: float = 0.5
) -> Mask:
    """The cells of an even grid, fullest first after smoothing, that hold a share of the points:
    (cells of x, cells of y).

    x and y: (points,), in any unit; a point with NaN counts nowhere, one outside the edges
    neither. Counts are smoothed by a normal curve as wide as Scott's rule says, the standard
    deviation times n^(-1/6), so that the fewer points there are, the less is read into each.
    Cells are taken from the fullest on, until the points in them reach the share; no point at all
    gives no cell. Errors: ValueError where the share is not between 0 and 1. Source: Hyndman
    (1996), highest density regions; Scott (1992).

    >>> edges = np.arange(0.0, 11.0)
    >>> near = np.array([2.5, 2.5, 2.6, 2.4, 9.5])
    >>> cells = densest_half(near, near, edges, edges)
    >>> bool(cells[2, 2]), bool(cells[9, 9])
    (True, False)
    """
    if not 0 < share <= 1:
        raise ValueError(f"share must be above 0 and at most 1; it is {share} instead")
    known = ~np.isnan(x) & ~np.isnan(y)
    counts = np.histogram2d(x[known], y[known], bins=(x_edges, y_edges))[0]
    total = counts.sum()
    if total == 0:
        return np.zeros(counts.shape, bool)
    wide = [
        float(np.std(values[known])) * total ** (-1 / 6) / float(edges[1] - edges[0])
        for values, edges in ((x, x_edges), (y, y_edges))
    ]
    smooth = gaussian_filter(counts, wide, mode="constant")
    order = np.argsort(smooth, axis=None, kind="stable")[::-1]
    held = np.cumsum(counts.ravel()[order])
    enough = int(np.searchsorted(held, share * total)) + 1
    taken = np.zeros(counts.size, bool)
    taken[order[:enough]] = True
    return np.asarray(taken.reshape(counts.shape), bool)

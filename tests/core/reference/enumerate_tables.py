"""An attacker without any method: tries every table that could stand behind what is shown."""

from __future__ import annotations

from itertools import product

import numpy as np


def possible(total: int, parts: int, low, high):
    """All ways to split `total` into `parts` whole numbers within bounds."""
    if parts == 1:
        if low[0] <= total <= high[0]:
            yield (total,)
        return
    for first in range(low[0], min(high[0], total) + 1):
        for rest in possible(total - first, parts - 1, low[1:], high[1:]):
            yield (first, *rest)


def bounds(shown: dict) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest count per cell of a rows × columns table with shown margins.

    shown: "cells" and "rows", "columns": numbers or None (hidden), "total": the number.
    """
    rows, columns, total = shown["rows"], shown["columns"], shown["total"]
    table = shown["cells"]
    wide, tall = len(columns), len(rows)
    low = np.full((tall, wide), total + 1)
    high = np.full((tall, wide), -1)
    least = [0 if x is None else x for x in rows]
    most = [total if x is None else x for x in rows]
    row_ways = list(possible(total, tall, least, most))
    for sums in row_ways:
        each = [
            list(possible(sums[i], wide, [0 if x is None else x for x in table[i]],
                          [total if x is None else x for x in table[i]]))
            for i in range(tall)
        ]  # fmt: skip
        for tried in product(*each):
            found = np.array(tried)
            down = found.sum(axis=0)
            if all(c is None or c == d for c, d in zip(columns, down, strict=True)):
                low, high = np.minimum(low, found), np.maximum(high, found)
    return low, high

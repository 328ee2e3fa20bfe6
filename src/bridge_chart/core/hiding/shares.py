"""What an aggregate-only viewer reads in place of a small number."""

from __future__ import annotations

from dataclasses import dataclass

FEWEST_SHOWN = 10
FLOORS = (5, 10, 20, 25, 30)
FEWEST_HIDDEN_IN = 3


@dataclass(frozen=True)
class ShownShare:
    """The text, and the counts (whole students) that it leaves possible."""

    text: str
    lowest: int
    highest: int
    masked: bool


def floor_percent(n: int) -> int:
    """c: the smallest of 5, 10, 20, 25, 30 with c·n/100 ≥ 3. n ≥ 10, else ValueError.

    >>> [floor_percent(n) for n in (10, 12, 15, 30, 60)]
    [30, 25, 20, 10, 5]
    """
    if n < FEWEST_SHOWN:
        raise ValueError(f"n must be at least {FEWEST_SHOWN}; it is {n} instead")
    return next(c for c in FLOORS if c * n >= 100 * FEWEST_HIDDEN_IN)


def shown_share(count: int, n: int) -> ShownShare:
    """A share as it is shown: "<c%" below c, ">100−c%" mirrored at the top, else whole percent.

    All arithmetic in integers. Errors: ValueError where n < 10 (nothing is shown then), or count
    lies outside 0 … n.

    >>> [shown_share(k, 12).text for k in (0, 1, 2, 3, 9, 10)]
    ['<25%', '<25%', '<25%', '25%', '75%', '>75%']
    """
    if not 0 <= count <= n:
        raise ValueError(f"count must lie in 0 to {n}; it is {count} instead")
    c = floor_percent(n)
    most = -(-c * n // 100) - 1  # the largest count under c percent
    if count <= most:
        return ShownShare(f"<{c}%", 0, most, True)
    if n - count <= most:
        return ShownShare(f">{100 - c}%", n - most, n, True)
    percent = (200 * count + n) // (2 * n)  # half up
    # Every count that would be rounded to the same whole percent, and is not masked.
    lowest = -(-(2 * percent - 1) * n // 200)
    highest = -(-(2 * percent + 1) * n // 200) - 1
    return ShownShare(f"{percent}%", max(lowest, most + 1), min(highest, n - most - 1), False)

"""The array types that the core takes and gives."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Integers = NDArray[np.int64]
Codes = NDArray[np.integer]
"""One small integer per student: the group it is in, or −1 for none."""
Mask = NDArray[np.bool_]


def check_codes(codes: Codes, length: int, groups: int) -> None:
    """Raise ValueError unless `codes` has `length` entries in −1 … groups−1.

    >>> check_codes(np.array([0, -1, 1]), 3, 2)
    """
    if codes.shape != (length,):
        raise ValueError(f"codes must have shape ({length},); they have {codes.shape} instead")
    if length and (int(codes.min()) < -1 or int(codes.max()) >= groups):
        raise ValueError(f"codes must lie in -1 to {groups - 1}")


@dataclass(frozen=True)
class Grouped:
    """Codes made ready for several sums: `slot` is code + 1, so that −1 counts in place 0."""

    slot: NDArray[np.intp]
    groups: int

    def sums(self, values: Floats) -> Floats:
        """Σ of `values` per code, (groups,)."""
        found: Floats = np.bincount(self.slot, values, self.groups + 1)[1:].astype(
            np.float64, copy=False
        )
        return found

    def counts(self) -> Integers:
        """Rows per code, (groups,)."""
        return np.bincount(self.slot, minlength=self.groups + 1)[1:].astype(np.int64, copy=False)


def grouped(codes: Codes, groups: int) -> Grouped:
    """Codes for sums and counts per group; rows with code −1 count nowhere.

    >>> made = grouped(np.array([0, -1, 0]), 2)
    >>> made.sums(np.array([1.0, 2.0, 4.0])).tolist(), made.counts().tolist()
    ([5.0, 0.0], [2, 0])
    """
    return Grouped(np.add(codes, 1, dtype=np.intp), groups)


def sums_of_rows(values: Floats, codes: Codes, groups: int) -> Floats:
    """(groups, columns): Σ of the rows of each code; those with code −1 count nowhere.

    >>> sums_of_rows(np.array([[1.0, 2], [4, 8], [16, 32]]), np.array([1, -1, 1]), 2).tolist()
    [[0.0, 0.0], [17.0, 34.0]]
    """
    from scipy.sparse import csr_array

    rows = np.flatnonzero(codes >= 0)
    place = (np.ones(len(rows)), (np.asarray(codes)[rows], rows))
    chosen = csr_array(place, shape=(groups, len(values)))
    found: Floats = np.asarray(chosen @ values)
    return found


FEW = 8


def among(codes: Codes, wanted: Sequence[int]) -> Mask:
    """Whether each small code (−1 … a few thousand) is one of `wanted`; never by search.

    >>> among(np.array([-1, 0, 2, 1]), [-1, 2]).tolist()
    [True, False, True, False]
    """
    found: Mask
    if len(wanted) <= FEW:
        found = np.zeros(codes.shape, bool)
        for code in wanted:
            found |= codes == code
        return found
    size = max(int(codes.max(initial=-1)), max(wanted)) + 2
    table = np.zeros(size, bool)
    table[list(wanted)] = True  # −1 is the last place
    found = table.take(codes, mode="wrap")
    return found

"""The array types that the core takes and gives."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Integers = NDArray[np.int64]
Codes = NDArray[np.integer]
"""One small integer per student: the group it is in, or −1 for none."""
Mask = NDArray[np.bool_]


def check_codes(codes: Codes, length: int, groups: int) -> None:
    """Raise ValueError unless `codes` has `length` entries in −1 … groups−1."""
    if codes.shape != (length,):
        raise ValueError(f"codes must have shape ({length},); they have {codes.shape} instead")
    if length and (int(codes.min()) < -1 or int(codes.max()) >= groups):
        raise ValueError(f"codes must lie in -1 to {groups - 1}")


def group_sums(values: Floats, codes: Codes, groups: int) -> Floats:
    """Σ of `values` per code, (groups,); rows with code −1 count nowhere.

    >>> group_sums(np.array([1.0, 2.0, 4.0]), np.array([0, -1, 0]), 2).tolist()
    [5.0, 0.0]
    """
    sums: Floats = np.bincount(codes + 1, weights=values, minlength=groups + 1)[1:].astype(
        np.float64, copy=False
    )
    return sums


def group_counts(codes: Codes, groups: int) -> Integers:
    """Rows per code, (groups,).

    >>> group_counts(np.array([0, -1, 0]), 2).tolist()
    [2, 0]
    """
    return np.bincount(codes + 1, minlength=groups + 1)[1:].astype(np.int64)


def among(codes: Codes, wanted: Sequence[int]) -> Mask:
    """Whether each small code (−1 … a few thousand) is one of `wanted`; by table, not by search.

    >>> among(np.array([-1, 0, 2, 1]), [-1, 2]).tolist()
    [True, False, True, False]
    """
    size = max(int(codes.max(initial=-1)), max(wanted, default=-1)) + 2
    table = np.zeros(size, bool)
    table[[code + 1 for code in wanted]] = True
    found: Mask = table[codes.astype(np.intp) + 1]
    return found

"""The one door to a kept column."""

from __future__ import annotations

from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

_one_header_at_a_time = Lock()
"""NumPy reads a file's header as a Python literal, and Python 3.11's reader of literals fails
now and then ("AST constructor recursion depth mismatch") when two threads are in it at once."""


def read_column(folder: Path, name: str) -> NDArray[Any]:
    """A column of a folder of versions, mapped read-only; FileNotFoundError if there is none."""
    with _one_header_at_a_time:
        column: NDArray[Any] = np.load(folder / "columns" / f"{name}.npy", mmap_mode="r")
    return column

"""The one door to a kept column: written whole, believed only if it is what was written.

A manifest says of each column how many bytes it has and their digest. Whatever is lost, cut short
or changed is made again from the record, by whoever opened the version (`mend`), never believed.
"""

from __future__ import annotations

import hashlib
import io
import mmap
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

Array = NDArray[Any]

_one_header_at_a_time = Lock()
"""NumPy reads a file's header as a Python literal, and Python 3.11's reader of literals fails
now and then ("AST constructor recursion depth mismatch") when two threads are in it at once."""

_looked_at: LRUCache[tuple[Path, str], tuple[int, int, int]] = LRUCache(50_000)
_looking = Lock()


@dataclass(frozen=True)
class Seal:
    """What a column's file must be: its length in bytes, and their digest."""

    length: int
    digest: str


Mend = Callable[[str], Seal]
"""Makes a column again from the record and gives its new seal."""


class Unfit(Exception):
    """A column is not there, or not what was written."""


def write_column(folder: Path, name: str, column: Array) -> Seal:
    """Write a column so that it is there whole or not at all, whatever stops in between."""
    held = io.BytesIO()
    np.save(held, np.ascontiguousarray(column))
    data = held.getbuffer()
    path = folder / "columns" / f"{name}.npy"
    temporary = path.with_name(f".{name}.{os.getpid()}")
    with temporary.open("wb") as out:
        out.write(data)
        out.flush()
        os.fsync(out.fileno())
    os.replace(temporary, path)
    return Seal(len(data), _digest(data))


def _digest(data: Any) -> str:
    return hashlib.blake2b(data, digest_size=16).hexdigest()


class Columns:
    """The columns of a folder that a manifest names. `mend` is asked for what does not fit;
    without it that is `Unfit`."""

    def __init__(self, folder: Path, seals: dict[str, Seal], mend: Mend | None = None) -> None:
        self.folder = folder
        self._seals = seals
        self._mend = mend

    def read(self, name: str) -> Array:
        """A column, mapped read-only."""
        try:
            return _read(self.folder, name, self._seals.get(name))
        except Unfit:
            if self._mend is None:
                raise
        self._seals[name] = self._mend(name)
        return _read(self.folder, name, self._seals[name])


def fits(folder: Path, name: str, seal: Seal) -> bool:
    """Whether a column's file is what was written."""
    try:
        _read(folder, name, seal)
    except Unfit:
        return False
    return True


def _read(folder: Path, name: str, seal: Seal | None) -> Array:
    path = folder / "columns" / f"{name}.npy"
    if seal is None:
        raise Unfit(name)
    try:
        with path.open("rb") as file:
            _check(file, path, seal)
            with _one_header_at_a_time:
                column: Array = np.load(path, mmap_mode="r")
    except (OSError, ValueError, EOFError) as error:
        raise Unfit(name) from error
    return column


def _check(file: Any, path: Path, seal: Seal) -> None:
    """Compare a file with its seal, once for as long as nobody touches it."""
    state = os.fstat(file.fileno())
    seen = (state.st_ino, state.st_size, state.st_mtime_ns)
    with _looking:
        if _looked_at.get((path, seal.digest)) == seen:
            return
    if state.st_size != seal.length:
        raise Unfit(path.stem)
    with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        if _digest(data) != seal.digest:
            raise Unfit(path.stem)
    with _looking:
        _looked_at[(path, seal.digest)] = seen

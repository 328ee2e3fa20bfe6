"""Figures that depend on a snapshot alone: worked out once.

A key is a tuple of values, never text put together: two things that differ in any value can
never share a name. What is kept is read-only, so that nobody changes what the next one reads.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from threading import Lock, RLock
from typing import Any, TypeVar, cast

import numpy as np
from cachetools import LRUCache

from bridge_chart.store.snapshot import Snapshot

MOST_KEPT = 160
MOST_KEPT_OF_SCOPES = 1024
"""Those of a school's students are small."""
Key = tuple[Hashable, ...]
T = TypeVar("T")

MOST_KEPT_OF_TRIES = 200
"""So that a try, which is another with each step of it, drives out nothing else."""
_kept: dict[str, LRUCache[Key, Any]] = {
    "whole": LRUCache(MOST_KEPT), "scope": LRUCache(MOST_KEPT_OF_SCOPES),
    "try": LRUCache(MOST_KEPT_OF_TRIES),
}  # fmt: skip
_making: dict[Key, Any] = {}
_lock = Lock()
_NOTHING = object()


def kept_for(snapshot: Snapshot, what: Key, make: Callable[[], T]) -> T:
    """What is kept under a key for this version, made if it is not there. Whoever asks for the
    same while it is being made waits for it instead of making it again."""
    name = (snapshot.folder, snapshot.key, *what)
    tried = snapshot.edits is not None
    kept = _kept["try" if tried else "whole" if snapshot.scope.whole else "scope"]
    with _lock:
        found = kept.get(name, _NOTHING)
        if found is not _NOTHING:
            return cast(T, found)
        making = _making.setdefault(name, RLock())
    with making:
        with _lock:
            found = kept.get(name, _NOTHING)
        if found is not _NOTHING:
            return cast(T, found)
        try:
            made = make()
        finally:
            with _lock:
                _making.pop(name, None)
        _read_only(made)
        with _lock:
            kept[name] = made
    return made


def _read_only(value: Any) -> None:
    """Every array in a value, its fields or items can be read only from now on."""
    if isinstance(value, np.ndarray):
        value.flags.writeable = False
    elif isinstance(value, tuple | list):
        for item in value:
            _read_only(item)
    elif is_dataclass(value) and not isinstance(value, type):
        for field in fields(value):
            _read_only(getattr(value, field.name))


def forget_kept() -> None:
    """Drop everything (tests and benchmarks look with and without)."""
    with _lock:
        for kept in _kept.values():
            kept.clear()

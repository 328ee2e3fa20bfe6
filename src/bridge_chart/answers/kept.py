"""Figures that depend on the version alone, never on who asks: worked out once."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock, RLock
from typing import Any, TypeVar, cast

from bridge_chart.store.snapshot import Snapshot

MOST_KEPT = 96
_kept: OrderedDict[tuple[str, int, str], Any] = OrderedDict()
_making: dict[tuple[str, int, str], Any] = {}
_lock = Lock()
T = TypeVar("T")


def kept_for(snapshot: Snapshot, what: str, make: Callable[[], T]) -> T:
    """What is kept under a name for this version, made if it is not there. Whoever asks for the
    same while it is being made waits for it instead of making it again."""
    name = (str(snapshot.folder), snapshot.version, what)
    with _lock:
        if name in _kept:
            _kept.move_to_end(name)
            return cast(T, _kept[name])
        making = _making.setdefault(name, RLock())
    with making:
        with _lock:
            if name in _kept:
                return cast(T, _kept[name])
        try:
            made = make()
        finally:
            with _lock:
                _making.pop(name, None)
        with _lock:
            _kept[name] = made
            while len(_kept) > MOST_KEPT:
                _kept.popitem(last=False)
    return made


def forget_kept() -> None:
    """Drop everything (benchmarks measure with and without)."""
    with _lock:
        _kept.clear()

"""Columns read by many threads at once, while objects are tidied away in between."""

from __future__ import annotations

import gc
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np

from bridge_chart.store.columns import Columns, write_column

THREADS, READS = 8, 300


class Tidied:
    """Is collected in a cycle, and lets another thread in when it is."""

    def __init__(self) -> None:
        self.itself = self

    def __del__(self) -> None:
        time.sleep(0)


def test_columns_are_read_by_many_threads_at_once(tmp_path: Path) -> None:
    (tmp_path / "columns").mkdir()
    columns = Columns(tmp_path, {"value": write_column(tmp_path, "value", np.arange(5.0))})

    def read(_: int) -> float:
        total = 0.0
        for _ in range(READS):
            Tidied()
            total += float(columns.read("value").sum())
        return total

    before = gc.get_threshold()
    gc.set_threshold(5)
    try:
        with ThreadPoolExecutor(THREADS) as threads:
            assert list(threads.map(read, range(THREADS))) == [10.0 * READS] * THREADS
    finally:
        gc.set_threshold(*before)

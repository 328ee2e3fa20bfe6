"""The core's calculations against general libraries, on made-up numbers of a large district.

Each alternative starts from data made ready for it (a typed frame in memory). The figures of both
are checked to agree. Peak memory is what Python and NumPy took beyond the input, over its size.
"""

from __future__ import annotations

import tracemalloc
from collections.abc import Callable
from time import perf_counter
from typing import Any

import numpy as np
import polars as pl

from bench.core_fits import fit_rows
from bridge_chart.core.describing.sorted_once import SortedDescription, describe_sorted, sort_once
from bridge_chart.core.scanning.sums import ScanSums, scan_sums

Row = tuple[str, float, str]
SCHOOLS = 400
CUTS = np.array([220.0, 240.0, 260.0, 280.0])
SIZES = [2, 2, 3, 4, 5, 7, 8, 11, 14]


def timed(work: Callable[[], Any], runs: int) -> tuple[float, Any]:
    """Median seconds of several runs, and the last result."""
    seconds, found = [], None
    for _ in range(runs):
        begun = perf_counter()
        found = work()
        seconds.append(perf_counter() - begun)
    return float(np.median(seconds)), found


def side_by_side(
    ours: Callable[[], Any], theirs: Callable[[], Any], runs: int
) -> tuple[float, Any, Any]:
    """Median ratio of pairs measured one after the other, and both results."""
    ratios = []
    mine = other = None
    for _ in range(runs):
        one, mine = timed(ours, 1)
        two, other = timed(theirs, 1)
        ratios.append(one / two)
    return float(np.median(ratios)), mine, other


def peak(work: Callable[[], Any], size: int) -> float:
    """Peak memory taken by the work over the size of its input."""
    tracemalloc.start()
    work()
    top = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return top / size


def made(rows: int) -> dict[str, np.ndarray]:
    """Columns of one measure: score, school, three characteristics for filters, one to split by."""
    rng = np.random.default_rng(7)
    school = rng.integers(0, SCHOOLS, rows).astype(np.int16)
    score = np.round(rng.normal(250, 30, rows)).astype(np.float32)
    return {
        "school": school, "score": score, "level": np.searchsorted(CUTS, score, side="right"),
        **{name: rng.integers(0, k, rows).astype(np.int8)
           for name, k in (("meals", 3), ("plan", 3), ("year", 7), ("band", 6))},
    }  # fmt: skip


def compare_rows(rows: int, runs: int) -> list[Row]:
    """Three filters by school, and by school and band, against Polars on both cores."""
    data = made(rows)
    kept = sort_once(data["score"], data["school"], SCHOOLS, CUTS)
    wanted = {"meals": [0, 1], "plan": [0, 2], "year": [1, 2, 3, 4, 5]}
    filters = []
    for name, codes in wanted.items():
        table = np.zeros(8, bool)
        table[codes] = True
        filters.append((kept.arranged(data[name]), table))
    band = kept.arranged(data["band"])
    frame = pl.DataFrame(data)
    keep = pl.all_horizontal(pl.col(name).is_in(codes) for name, codes in wanted.items())
    figures = [
        pl.len().alias("n"), pl.col("score").cast(pl.Float64).mean().alias("mean"),
        pl.col("score").cast(pl.Float64).std().alias("sd"),
        *((pl.col("level") == k).sum().alias(f"level{k}") for k in range(5)),
        *(pl.col("score").quantile(q, "linear").alias(f"q{q}") for q in (0.25, 0.5, 0.75)),
    ]  # fmt: skip
    out: list[Row] = []
    for what, by, ours in (
        ("by school", ["school"], lambda: describe_sorted(kept, filters)),
        ("by school and band", ["school", "band"], lambda: describe_sorted(kept, filters, band, 6)),
    ):

        def theirs(by: list[str] = by) -> pl.DataFrame:
            return frame.lazy().filter(keep).group_by(by).agg(figures).sort(by).collect()

        ratio, found, table = side_by_side(ours, theirs, runs)
        _same(found, table)
        size = sum(c.nbytes for c, _ in filters) + kept.values.nbytes
        out.append(
            (f"compare {what}, {rows:,} rows / Polars", ratio,
             f"peak {peak(ours, size):.2f} of the input")
        )  # fmt: skip
    return out


def _same(found: SortedDescription, table: pl.DataFrame) -> None:
    np.testing.assert_array_equal(found.n, table["n"].to_numpy())
    np.testing.assert_allclose(found.mean, table["mean"].to_numpy(), rtol=1e-9)
    np.testing.assert_allclose(found.sd, table["sd"].to_numpy(), rtol=1e-7)
    np.testing.assert_allclose(found.q3, table["q0.75"].to_numpy(), rtol=1e-6)
    levels = np.column_stack([table[f"level{k}"].to_numpy() for k in range(5)])
    np.testing.assert_array_equal(found.levels, levels)


def scan_rows(rows: int, runs: int) -> list[Row]:
    """Every category × measure × school, with the rest of each school, against Polars."""
    rng = np.random.default_rng(8)
    school = np.sort(rng.integers(0, SCHOOLS, rows)).astype(np.int16)
    values = rng.normal(250, 30, (rows, 10))
    codes = [rng.integers(0, k, rows).astype(np.int8) for k in SIZES]
    names = [f"m{k}" for k in range(10)]
    frame = pl.DataFrame(
        {"school": school, **{f"c{k}": c for k, c in enumerate(codes)},
         **{name: values[:, k] for k, name in enumerate(names)}}
    )  # fmt: skip

    def theirs() -> list[pl.DataFrame]:
        figures = [
            f for n in names
            for f in (pl.col(n).count().alias(f"{n}n"), pl.col(n).mean().alias(f"{n}mean"),
                      pl.col(n).std().alias(f"{n}sd"))
        ]  # fmt: skip
        lazy = frame.lazy()
        return pl.collect_all(
            [lazy.group_by(["school", f"c{k}"]).agg(figures) for k in range(len(SIZES))]
        )

    def ours() -> ScanSums:
        return scan_sums(values, codes, SIZES, school, SCHOOLS, workers=2)

    ratio, found, tables = side_by_side(ours, theirs, runs)
    table = tables[8].sort(["school", "c8"])
    at = found.first[8]
    np.testing.assert_allclose(
        found.mean[:, at : at + 14, 3].ravel(), table["m3mean"].to_numpy(), rtol=1e-9
    )
    size = values.nbytes + sum(c.nbytes for c in codes)
    used = peak(ours, size)
    what = f"scan {sum(SIZES)} categories × 10 measures × {SCHOOLS} schools, {rows:,} students"
    return [(f"{what} / Polars", ratio, f"peak {used:.2f} of the input")]


def core_rows(runs: int) -> list[Row]:
    """All rows of the core."""
    return [
        *compare_rows(1_000_000, runs), *compare_rows(10_000_000, 3), *scan_rows(1_000_000, 5),
        *fit_rows(runs),
    ]  # fmt: skip

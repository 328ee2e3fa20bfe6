"""Bringing results in: the whole intake against a bare psql \\copy of the same file.

Ours reads, understands, matches, checks, keeps the source file, and writes attempts and results
with their indexes in one transaction; `\\copy` puts text into one table without an index.
"""

from __future__ import annotations

import datetime as dt
import os
import resource
import subprocess
import time
from pathlib import Path

import polars as pl
import sqlalchemy as sa

from bench.district import SPRINGS, Bench, say
from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.drafts.drafts import save_source
from bridge_chart.intake.keep import keep as keeping
from bridge_chart.intake.keep.keep import Origin, change_standing, examine, keep
from bridge_chart.intake.reading.apart import sheet_in
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.snapshot_build import snapshot_of

Row = tuple[str, float, str]


def intake_rows(bench: Bench) -> list[Row]:
    """The ratios of times for one file of all three springs; above 1 we are slower."""
    path = bench.files / "springs.csv"
    frame = pl.concat([pl.read_csv(bench.files / name, infer_schema=False) for name in SPRINGS])
    stamp = f"{dt.datetime.now():%H%M%S}"
    renamed = frame.with_columns((pl.col("Sitting") + f" again {stamp}").alias("Sitting"))
    renamed.write_csv(path)
    say(f"bringing in {frame.height:,} rows, {path.stat().st_size / 1e6:.0f} MB")
    rows, columns = frame.height, frame.columns
    del frame, renamed
    copied = min(_copy(bench, path, columns) for _ in range(3))
    snapshot_of(bench.engine, bench.settings.snapshots)
    before = _peak()
    kept, shown, batch_id = _keep(bench, path)
    change_standing(bench.engine, bench.settings, OPERATOR, batch_id, "undone")
    size = path.stat().st_size
    return [
        ("intake of results, to kept / \\copy", kept / copied,
         f"{rows:,} rows; \\copy at {rows / copied:,.0f} rows/s, ours at {rows / kept:,.0f}"),
        ("intake, to answerable / \\copy", (kept + shown) / copied, "with the new snapshot"),
        ("peak memory of intake / file", (_peak() - before) / size,
         "beyond what the process had before; alone with --intake"),
        ("peak memory of the process / file", _peak() / size, "with interpreter and libraries"),
    ]  # fmt: skip


def _peak() -> int:
    """The most memory that this process has had, in bytes."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def _copy(bench: Bench, path: Path, columns: list[str]) -> float:
    names = ", ".join(f'"{name}" text' for name in columns)
    with bench.engine.begin() as connection:
        connection.execute(sa.text("DROP TABLE IF EXISTS bench_copy"))
        connection.execute(sa.text(f"CREATE TABLE bench_copy ({names})"))
    url = bench.engine.url
    start = time.perf_counter()
    subprocess.run(
        ["psql", "-q", "-h", str(url.host), "-p", str(url.port), "-U", str(url.username),
         str(url.database), "-c", f"\\copy bench_copy FROM '{path}' CSV HEADER"],
        check=True, env={**os.environ, "PGPASSWORD": str(url.password)},
    )  # fmt: skip
    return time.perf_counter() - start


def _keep(bench: Bench, path: Path) -> tuple[float, float, int]:
    """Seconds to kept, seconds from there to answerable, and the batch."""
    shown = 0.0
    refresh = keeping._refresh

    def timed(*given: object) -> None:
        nonlocal shown
        start = time.perf_counter()
        refresh(*given)  # type: ignore[arg-type]
        shown = time.perf_counter() - start

    keeping._refresh = timed  # type: ignore[assignment]
    try:
        start = time.perf_counter()
        data = path.read_bytes()
        sheet = sheet_in(path.name, data)
        snapshot = snapshot_of(bench.engine, bench.settings.snapshots)
        said, today = IntakeSettings(), dt.date(2026, 6, 1)
        plan = examine("results", sheet, said, snapshot, today, unattended=True)
        source = save_source(bench.engine, path.name, data)
        kept = keep(
            bench.engine, bench.settings, OPERATOR, plan, sheet, said, Origin(source), today=today
        )
        total = time.perf_counter() - start
    finally:
        keeping._refresh = refresh
    assert plan.examination.rows_kept > 0.99 * sheet.cells.height
    return total - shown, shown, kept.batch_id

"""Year 8 of the demo as arrays, for the worked examples of docs/methods: read from its files."""

from __future__ import annotations

import tempfile
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo.district import LEVELS, SEED
from bridge_chart.demo.files import generate

STUDENTS = 5000


def _results(folder: Path, year: int, roster: pl.DataFrame) -> dict[str, np.ndarray]:
    """Scores and levels of the roster's students; contradicting doubles left out, as at intake."""
    width = roster["Student number"].str.len_chars().max()
    rows = pl.read_csv(folder / f"spring-{year}.csv", infer_schema=False).unique()
    rows = rows.with_columns(
        pl.col("Student No").str.zfill(width).alias("Student number"),
        pl.col("Scaled score").cast(pl.Float64, strict=False).alias("score"),
    )
    held = rows.unique(["Student number", "Subject"], keep="none")
    found: dict[str, np.ndarray] = {}
    for subject in ("Mathematics", "Reading"):
        part = held.filter(pl.col("Subject") == subject).select("Student number", "score", "Level")
        joined = roster.join(part, on="Student number", how="left", maintain_order="left")
        found[subject] = joined["score"].to_numpy().astype(float)
        there = {name: code for code, name in enumerate(LEVELS)}
        found[f"{subject} level"] = np.array([there.get(name, -1) for name in joined["Level"]])
    return found


@cache
def year_8() -> dict[str, Any]:
    """Scores in Mathematics (spring 2026, 2025, 2024) and Reading, and who the students are.

    maths, before, earlier, reading: (students,), NaN = none; school: codes into `schools`, which
    are in alphabetical order; classes: codes, with the school of each; level, level_before: codes
    into `levels`, −1 = none.
    """
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        generate(folder, STUDENTS, SEED)
        roster = pl.read_csv(folder / "roster-2025-26-april.csv", infer_schema=False)
        roster = roster.filter(pl.col("Year level") == "Year 8")
        now, last, first = (_results(folder, year, roster) for year in (2026, 2025, 2024))
    schools = sorted(set(roster["School"]))
    names = sorted(set(zip(roster["School"], roster["Class"], strict=True)))
    return {
        "np": np,
        "classes": np.array(
            [names.index(one) for one in zip(roster["School"], roster["Class"], strict=True)]
        ),
        "school_of_class": np.array([schools.index(name) for name, _ in names]),
        "maths": now["Mathematics"],
        "before": last["Mathematics"],
        "earlier": first["Mathematics"],
        "reading": now["Reading"],
        "school": np.array([schools.index(name) for name in roster["School"]]),
        "schools": schools,
        "level": now["Mathematics level"],
        "level_before": last["Mathematics level"],
        "levels": list(LEVELS),
        "meals": (roster["Meal support"] == "yes").to_numpy(),
        "plan": (roster["Learning plan"] == "yes").to_numpy(),
        "girl": (roster["Sex"] == "F").to_numpy(),
        "everyone": np.zeros(roster.height, np.int64),
    }

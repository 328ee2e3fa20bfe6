"""The demo's own files read another way: what the answers must come to, without our readers."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
import polars as pl

NO_SCORE = ("abs", "X", "-")


@cache
def survey(folder: Path, year: int, subject: str) -> pl.DataFrame:
    """Student number, score, level of the survey; contradicting doubles left out."""
    if subject == "Writing":
        rows = pl.read_csv(folder / f"writing-{year}.csv", infer_schema=False)
    else:
        rows = pl.read_csv(folder / f"spring-{year}.csv", infer_schema=False).unique()
        rows = rows.filter(pl.col("Subject") == subject)
    rows = rows.with_columns(number=pl.col("Student No").str.zfill(6))
    rows = rows.unique("number", keep="none")
    return rows.select(
        "number",
        score=pl.col("Scaled score").cast(pl.Float64, strict=False),
        level=pl.col("Level"),
    )


@cache
def roster(folder: Path, name: str = "roster-2025-26-april.csv") -> pl.DataFrame:
    frame = pl.read_csv(folder / name, infer_schema=False)
    return frame.with_columns(
        number=pl.col("Student number"),
        year=pl.col("Year level").str.extract(r"(\d+)").cast(pl.Int64),
    )


def year_8(folder: Path) -> pl.DataFrame:
    """Year 8 of the newest roster with their scores this spring and last."""
    frame = roster(folder).filter(pl.col("year") == 8)
    for subject in ("Mathematics", "Reading", "Writing"):
        for year in (2026, 2025):
            part = survey(folder, year, subject).rename(
                {"score": f"{subject} {year}", "level": f"{subject} {year} level"}
            )
            frame = frame.join(part, on="number", how="left", maintain_order="left")
    return frame


@cache
def check(folder: Path, short: str) -> pl.DataFrame:
    """A check's grid without its row of maximum marks; blanks as 0, as the answers count them."""
    frame = pl.read_csv(folder / f"check-{short}.csv", infer_schema=False)
    frame = frame.filter(pl.col("Student No") != "Maximum marks")
    marks = [pl.col(f"Q{n}").cast(pl.Int64, strict=False) for n in range(1, 31)]
    return frame.with_columns(
        number=pl.col("Student No"), **{f"Q{n + 1}": m for n, m in enumerate(marks)}
    )


@cache
def certificate(folder: Path) -> pl.DataFrame:
    frame = pl.read_csv(folder / "certificate-2025.csv", infer_schema=False)
    return frame.with_columns(number=pl.col("Student No"))


def expected_by_line(start: np.ndarray, outcome: np.ndarray) -> np.ndarray:
    """A straight line by the textbook, over those who have both."""
    held = ~np.isnan(start) & ~np.isnan(outcome)
    slope, intercept = np.polyfit(start[held], outcome[held], 1)
    return np.asarray(intercept + slope * start)

"""Five cohorts who left with their certificate, and the practice paper that each sat in March: what
a grade in March has meant for June. The sixth has sat its March paper only."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo.certificate import GRADES, TEST
from bridge_chart.demo.district import OLDEST, SD, Array, District, expected_mean
from bridge_chart.demo.names import FAMILY, GIVEN, SCHOOLS

MOCK = "Harbour mock"
SUBJECTS = ("Mathematics", "English")
LEFT_EARLY = ("2020-21", "2021-22", "2022-23")
"""School years of which only those in their last year are told."""
LOW_IN_MARCH, SPREAD_IN_MARCH = -0.45, 0.75
"""A grade in March is this much below that of June, give or take: chances that hold."""
OUT_OF_REACH = ("Skarra Point", "A*")
"""A school whose personal targets in March 2026 are all the top grade."""


def write_leavers(
    district: District, rolls: list[Array], out: Path, rng: np.random.Generator
) -> dict[str, Any]:
    """Rosters of three years of leavers, their certificates, and every cohort's March paper."""
    files: dict[str, Any] = {}
    papers, certificates = [], []
    for n, year in enumerate(LEFT_EARLY):
        roster = _leavers(district, n, rng)
        name = f"roster-{year}.csv"
        roster.write_csv(out / name)
        files[name] = {"kind": "roster", "year": year, "rows": roster.height}
        grades = {s: _grades(rng.normal(0.0, 1.0, roster.height), rng) for s in SUBJECTS}
        numbers = roster["Student number"].to_numpy()
        certificates.append(_sat(numbers, grades, f"June {2021 + n}", dt.date(2021 + n, 6, 20)))
        papers.append(_march(numbers, grades, 2021 + n, rng))
    at = rolls[0][district.level[rolls[0]] - 2 == OLDEST]
    grades = {s: _grades(_start(district, at, 0), rng) for s in SUBJECTS}
    certificates.append(_sat(district.number[at], grades, "June 2024", dt.date(2024, 6, 20)))
    papers.append(_march(district.number[at], grades, 2024, rng))
    papers.append(_march_2025(out / "certificate-2025.csv", rng))
    pl.concat(certificates).write_csv(out / "certificates-earlier.csv")
    pl.concat(papers).write_csv(out / "mock-earlier.csv")
    newest = _march_2026(district, rolls[2], rng)
    newest.write_csv(out / "mock-2026.csv")
    scale = pl.read_csv(out / "certificate-scale.csv", infer_schema=False).with_columns(
        pl.lit(MOCK).alias("Test")
    )
    scale.write_csv(out / "mock-scale.csv")
    return files | {
        "mock-scale.csv": {"kind": "scale", "rows": scale.height},
        "certificates-earlier.csv": {"kind": "results", "test": TEST,
                                     "rows": sum(c.height for c in certificates)},
        "mock-earlier.csv": {"kind": "results", "test": MOCK,
                             "rows": sum(p.height for p in papers)},
        "mock-2026.csv": {"kind": "results", "test": MOCK, "sitting": "March 2026",
                          "date": "2026-03-10", "rows": newest.height},
    }  # fmt: skip


def _leavers(district: District, n: int, rng: np.random.Generator) -> pl.DataFrame:
    """A roster of one last year; its students are nobody's who came later."""
    count = max(60, len(district.level) // 11)
    width = len(district.number[0])
    first = n * count
    born = np.datetime64(f"{2020 + n}-08-01") - 16 * 365 + rng.integers(0, 365, count)
    shares = np.array([SCHOOLS.get(name, 1.0) for name in district.schools])
    school = np.array(district.schools)[
        rng.choice(len(district.schools), count, p=shares / shares.sum())
    ]
    return pl.DataFrame({
        "Student number": [f"8{first + k:0{width - 1}d}" for k in range(count)],
        "Given name": np.array(GIVEN)[rng.integers(0, len(GIVEN), count)],
        "Family name": np.array(FAMILY)[rng.integers(0, len(FAMILY), count)],
        "Birth date": [f"{d:%d/%m/%Y}" for d in born.astype(object)],
        "School": school,
        "Year level": [f"Year {OLDEST}"] * count,
        "Sex": rng.choice(["F", "M"], count),
        "Meal support": np.where(rng.random(count) < 0.24, "yes", "no"),
    })  # fmt: skip


def _start(district: District, at: Array, year: int) -> Array:
    """Standardised scores of the survey of one spring, both subjects together."""
    level = district.level[at] - (2 - year)
    both = [(district.scores[s, year][at] - expected_mean(level)) / SD
            for s in ("Mathematics", "Reading")]  # fmt: skip
    return np.asarray(np.nan_to_num(np.stack(both).mean(axis=0)))


def _grades(start: Array, rng: np.random.Generator) -> Array:
    """Places of June's grades, as the certificate of 2025 has them."""
    true = 3.3 + 1.25 * start + rng.normal(0.0, 0.85, len(start))
    return np.clip(np.rint(true), 0, len(GRADES) - 1).astype(int)


def _in_march(june: Array, rng: np.random.Generator) -> Array:
    seen = june + LOW_IN_MARCH + rng.normal(0.0, SPREAD_IN_MARCH, len(june))
    return np.clip(np.rint(seen), 0, len(GRADES) - 1).astype(int)


def _sat(numbers: Array, grades: dict[str, Array], sitting: str, date: dt.date) -> pl.DataFrame:
    return pl.concat([
        pl.DataFrame({
            "Student No": numbers, "Subject": [subject] * len(numbers),
            "Sitting": [sitting] * len(numbers), "Test date": [str(date)] * len(numbers),
            "Grade": np.array(GRADES)[places],
        })
        for subject, places in grades.items()
    ])  # fmt: skip


def _march(
    numbers: Array, june: dict[str, Array], year: int, rng: np.random.Generator
) -> pl.DataFrame:
    seen = {subject: _in_march(places, rng) for subject, places in june.items()}
    return _sat(numbers, seen, f"March {year}", dt.date(year, 3, 10))


def _march_2025(certificate: Path, rng: np.random.Generator) -> pl.DataFrame:
    """Near the grades that the certificate of 2025 came to."""
    sat = pl.read_csv(certificate, infer_schema=False).filter(pl.col("Grade").is_in(GRADES))
    place = {name: n for n, name in enumerate(GRADES)}
    frames = []
    for subject in SUBJECTS:
        mine = sat.filter(pl.col("Subject") == subject)
        june = np.array([place[name] for name in mine["Grade"]])
        frames.append(_march(mine["Student No"].to_numpy(), {subject: june}, 2025, rng))
    return pl.concat(frames)


def _march_2026(district: District, roll: Array, rng: np.random.Generator) -> pl.DataFrame:
    """This year's, each with a personal target; those of one school cannot be reached."""
    at = roll[district.level[roll] == OLDEST]
    start = _start(district, at, 1)
    school, top = OUT_OF_REACH
    theirs = np.array(district.schools)[district.school[2][at]] == school
    frames = []
    for subject in SUBJECTS:
        grade = _in_march(_grades(start, rng), rng)
        target = np.clip(np.rint(3.3 + 1.1 * start), 0, len(GRADES) - 1).astype(int)
        target[theirs] = GRADES.index(top)
        frames.append(pl.DataFrame({
            "Student No": district.number[at], "Subject": [subject] * len(at),
            "Grade": np.array(GRADES)[grade],
            "Personal target": np.array(GRADES)[target],
        }))  # fmt: skip
    return pl.concat(frames)

"""Harbour certificate: year 11's graded subjects, with predictions and two kinds of target;
the survey's scale and national figures; and Writing, which came to the survey late."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo.checks import figures_of
from bridge_chart.demo.district import (
    CUTS_IN_SD,
    LEVELS,
    OLDEST,
    SD,
    YOUNGEST,
    Array,
    District,
    expected_mean,
    level_of,
)

TEST = "Harbour certificate"
SITTING, DATE = "June 2025", dt.date(2025, 6, 20)
GRADES = ("U", "E", "D", "C", "B", "A", "A*")
PASS = "C"
SUBJECTS = {"Mathematics": 1.0, "English": 1.0, "Science": 0.96, "Geography": 0.55,
            "History": 0.45, "Merrish": 0.25, "Art": 0.3}  # fmt: skip
"""Share of the year that takes each subject."""
OPTIMISM = {"Geography": 1.0}
"""Grades by which teachers predict too high, beyond the usual quarter of a grade."""
SURVEY = "Spring survey"
WRITING_SPRINGS = ((1, "spring 2025", dt.date(2025, 5, 13)),
                   (2, "spring 2026", dt.date(2026, 5, 12)))  # fmt: skip


def write_certificate(
    district: District, on_roll: Array, out: Path, rng: np.random.Generator
) -> dict[str, Any]:
    """Grades of those in year 11 in 2024-25. `on_roll`: positions of that year's students."""
    at = on_roll[district.level[on_roll] - 1 == 11]
    start = np.stack([
        (district.scores[s, 0][at] - expected_mean(np.array(10))) / SD
        for s in ("Mathematics", "Reading")
    ]).mean(axis=0)  # fmt: skip
    start = np.nan_to_num(start)
    frames = []
    for subject, share in SUBJECTS.items():
        taken = rng.random(len(at)) < share
        true = 3.3 + 1.25 * start + rng.normal(0.0, 0.85, len(at))
        grade = np.clip(np.rint(true), 0, 6).astype(int)
        optimism = 0.25 + OPTIMISM.get(subject, 0.0)
        predicted = np.clip(np.rint(true + optimism + rng.normal(0, 0.5, len(at))), 0, 6)
        floor = np.clip(np.rint(3.1 + 1.1 * start), 0, 6).astype(int)
        personal = np.clip(floor + rng.integers(0, 2, len(at)), 0, 6)
        words = np.array(GRADES, dtype=object)
        cells = words[grade]
        cells[rng.random(len(at)) < 0.015] = "X"
        frames.append(pl.DataFrame({
            "Student No": district.number[at],
            "Subject": [subject] * len(at),
            "Grade": cells.astype(str),
            "Predicted grade": words[predicted.astype(int)].astype(str),
            "Floor target": words[floor].astype(str),
            "Personal target": words[personal].astype(str),
        }).filter(pl.Series(taken)))  # fmt: skip
    frame = pl.concat(frames)
    frame.write_csv(out / "certificate-2025.csv")
    points = [
        {"Test": TEST, "Score": "grade", "Step": name, "Points": n,
         "Pass": "yes" if n >= GRADES.index(PASS) else "no", "Synonyms": name.replace("*", " *")}
        for n, name in enumerate(GRADES)
    ]  # fmt: skip
    pl.DataFrame(points).write_csv(out / "certificate-scale.csv")
    return {
        "certificate-scale.csv": {"kind": "scale", "rows": len(points)},
        "certificate-2025.csv": {"kind": "results", "rows": frame.height, "test": TEST,
                                 "sitting": SITTING, "date": str(DATE)},
    }  # fmt: skip


PAPERS = (("P1", (2, 2, 3, 3, 4, 4, 6, 6)), ("P2", (2, 3, 3, 4, 4, 6, 8, 10)))
"""The two papers of Science, with what each question is worth."""
UNEVEN = 6
"""Students who know one half of the subject alone: the first paper is theirs, the second is not."""


def write_papers(certificate: Path, out: Path, rng: np.random.Generator) -> dict[str, Any]:
    """Marks by question of both papers of one subject, near the grade that each student got."""
    sat = pl.read_csv(certificate, infer_schema=False).filter(
        (pl.col("Subject") == "Science") & (pl.col("Grade") != "X")
    )
    place = {name: n for n, name in enumerate(GRADES)}
    grade = np.array([place[name] for name in sat["Grade"]])
    ability = (grade - 3.0) / 1.3 + rng.normal(0, 0.3, len(grade))
    tilt = np.zeros(len(grade))
    tilt[np.argsort(np.abs(grade - 3), kind="stable")[:UNEVEN]] = 2.4
    rows: dict[str, Any] = {"Student No": sat["Student No"].to_numpy()}
    top: dict[str, str] = {"Student No": "Maximum"}
    for sign, (paper, maxima) in zip((1, -1), PAPERS, strict=True):
        for n, worth in enumerate(maxima):
            easy = 1.2 - 0.35 * n
            chance = 1 / (1 + np.exp(-(ability + sign * tilt + easy)))
            rows[f"{paper} Q{n + 1}"] = rng.binomial(worth, chance).astype(str)
            top[f"{paper} Q{n + 1}"] = str(worth)
    frame = pl.concat([pl.DataFrame(top), pl.DataFrame(rows)])
    frame.write_csv(out / "certificate-papers.csv")
    return {
        "certificate-papers.csv": {"kind": "results", "rows": frame.height, "test": TEST,
                                   "subject": "Science", "sitting": SITTING, "date": str(DATE)},
    }  # fmt: skip


def write_survey_tables(out: Path, rng: np.random.Generator) -> dict[str, Any]:
    """The survey's levels with their cut scores, and the nation's figures by year level."""
    steps = [
        {"Test": SURVEY, "Score": "level", "Step": name, "Pass": "yes" if n >= 2 else "no",
         "Year level": level,
         "From": "" if n == 0 else str(float(np.rint(
             expected_mean(np.array(level)) + SD * CUTS_IN_SD[n - 1])))}
        for level in range(YOUNGEST, OLDEST + 1)
        for n, name in enumerate(LEVELS)
    ]  # fmt: skip
    pl.DataFrame(steps).write_csv(out / "survey-scale.csv")
    figures: list[dict[str, Any]] = []
    for sitting, lift in (("spring 2025", 0.0), ("spring 2026", 0.05), ("spring 2024", 0.0)):
        for subject in ("Mathematics", "Reading"):
            for level in range(YOUNGEST, OLDEST + 1):
                mean = expected_mean(np.array(level))
                values = np.rint(mean + SD * rng.normal(lift, 1.0, 20_000))
                about = {"Test": SURVEY, "Subject": subject, "Sitting": sitting,
                         "Year level": level, "Published": "2026-09-01"}  # fmt: skip
                figures += figures_of(about | {"Score": "scaled"}, values)
                names, counts = np.unique(
                    level_of(values, np.full(len(values), level)), return_counts=True
                )
                shares = dict(zip(names.tolist(), (counts / counts.sum()).tolist(), strict=True))
                figures.append(about | {"Score": "level", "Statistic": "n", "Of": "",
                                        "Value": len(values)})  # fmt: skip
                figures += [
                    about | {"Score": "level", "Statistic": "share", "Of": name,
                             "Value": round(shares.get(name, 0.0), 4)}
                    for name in LEVELS
                ]  # fmt: skip
    pl.DataFrame(figures, infer_schema_length=None).write_csv(out / "survey-national.csv")
    return {
        "survey-scale.csv": {"kind": "scale", "rows": len(steps)},
        "survey-national.csv": {"kind": "national", "rows": len(figures)},
    }


NEAR_THE_CUTS = "Long Reach"
"""A school in which nobody changes in Writing, and everybody stands where two levels meet."""
WRITING_ERROR = 0.4
"""By how many standard deviations a score of Writing would differ, were it sat again."""


def _at_a_cut(own: Array) -> Array:
    """The nearest place where two levels meet."""
    cuts = np.array(CUTS_IN_SD)
    return np.asarray(cuts[np.abs(own[:, None] - cuts[None, :]).argmin(axis=1)])


def write_writing(
    district: District, rolls: list[Array], out: Path, rng: np.random.Generator
) -> dict[str, Any]:
    """Writing in the last two springs: near Reading, with its own luck."""
    files: dict[str, Any] = {}
    own = rng.normal(0.0, 1.0, len(district.level))
    for year, sitting, date in WRITING_SPRINGS:
        at = rolls[year]
        level = district.level[at] - (2 - year)
        reading = (district.scores["Reading", year][at] - expected_mean(level)) / SD
        true = 0.75 * reading + 0.5 * own[at]
        near = np.array(district.schools)[district.school[year][at]] == NEAR_THE_CUTS
        true[near] = _at_a_cut(own[at][near])
        z = true + rng.normal(0.0, WRITING_ERROR, len(at))
        score = np.clip(np.rint(expected_mean(level) + SD * z), 100, 600)
        there = rng.random(len(at)) > 0.02
        frame = pl.DataFrame({
            "Student No": district.number[at],
            "Year": level,
            "Scaled score": score.astype(int).astype(str),
            "Level": level_of(score, level).astype(str),
        }).filter(pl.Series(there))  # fmt: skip
        name = f"writing-{2024 + year}.csv"
        frame.write_csv(out / name)
        files[name] = {"kind": "results", "rows": frame.height, "test": SURVEY,
                       "subject": "Writing", "sitting": sitting, "date": str(date)}  # fmt: skip
    exact = {"Test": SURVEY, "Subject": "Writing", "Score": "scaled",
             "Error of measurement": SD * WRITING_ERROR}  # fmt: skip
    pl.DataFrame([exact]).write_csv(out / "writing-reliability.csv")
    return files | {"writing-reliability.csv": {"kind": "reliability", "rows": 1}}

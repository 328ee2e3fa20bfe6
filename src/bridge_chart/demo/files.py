"""The files that the made-up district's people would hand over, and what was planted in them."""

from __future__ import annotations

import datetime as dt
import json
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo import answers, certificate, checks, credits, leavers, movement
from bridge_chart.demo.district import (
    CUTS_IN_SD,
    LEARNING_PLAN_EFFECT,
    LEVELS,
    MEAL_SUPPORT_START,
    OLDEST,
    SCHOOL_EFFECTS,
    SD,
    SUBJECTS,
    YEARS,
    YOUNGEST,
    Array,
    District,
    expected_mean,
    level_of,
    make_district,
)
from bridge_chart.demo.names import FAMILY, GIVEN

SPRINGS = (dt.date(2024, 5, 14), dt.date(2025, 5, 13), dt.date(2026, 5, 12))
TEST = "Spring survey"
CLASS_SIZE = 27
ZEROS_LOST_AT = ("Skarra Point", "Long Reach")


def generate(out: Path, students: int, seed: int) -> dict[str, Any]:
    """Write all files and planted.json into `out`; return what was planted."""
    out.mkdir(parents=True, exist_ok=True)
    district = make_district(students, seed)
    rng = np.random.default_rng(seed + 1)
    files: dict[str, Any] = {}
    rolls: list[Array] = []
    for year, name in enumerate(YEARS):
        mask = district.enrolled(year)
        autumn = f"roster-{name}.csv"
        _write_roster(district, year, mask, district.school[year], out / autumn)
        files[autumn] = {"kind": "roster", "year": name, "as_of": f"20{23 + year}-09-04",
                         "rows": int(mask.sum())}  # fmt: skip
        rolls.append(mask)
    files["roster-2025-26-april.csv"] = _april(district, rng, rolls[2], out)
    for year in range(3):
        name = f"spring-{2024 + year}.csv"
        at = np.flatnonzero(rolls[year])
        files[name] = _write_results(district, year, at, rng, out / name)
    files |= _later(district, rolls, out, seed)
    planted = _planted(district, files, seed)
    (out / "planted.json").write_text(json.dumps(planted, indent=2), encoding="utf-8")
    return planted


def _planted(district: District, files: dict[str, Any], seed: int) -> dict[str, Any]:
    """What is true in the district, and what must be found of it."""
    return {
        "seed": seed,
        "truth": {
            "check_strands": {
                "class": list(checks.WEAK_CLASS),
                "weak": list(checks.WEAK_STRANDS),
                "english_learners": "Problems in words",
            },
            "check_questions": {
                "wrong_key": list(answers.WRONG_KEY),
                "unfair": {
                    "question": f"Q{checks.UNFAIR + 1}",
                    "form": "B",
                    "harder_for": "Meal support",
                },
                "far_better_on_one_paper": certificate.UNEVEN,
                "topic": {"is": checks.TOPIC, "lacks": "8B", "has": checks.HAS_TOPIC},
            },
            "optimistic_predictions": certificate.OPTIMISM,
            "moves_by_error_alone": [certificate.NEAR_THE_CUTS, "Writing"],
            "rank_falls_though_score_rises": district.falls_behind,
            "targets_out_of_reach": list(leavers.OUT_OF_REACH),
            "school_effects_mathematics_2026": SCHOOL_EFFECTS,
            "learning_plan_points_a_year": LEARNING_PLAN_EFFECT,
            "meal_support_sd_at_start": MEAL_SUPPORT_START,
            "sex": 0.0,
            "schools_in_reading": {},
        },
        "expected": {
            "mathematics_2026_by_school": {
                "behind": ["Fernhollow"],
                "ahead": ["Brackwater", "Wick & Orme"],
                "never": [s for s in district.schools if s not in SCHOOL_EFFECTS],
            },
            "reading_2026_by_school": {"behind": [], "ahead": [], "never": district.schools},
            "explained_by_prior": "Meal support",
            "not_explained_by_prior": "Learning plan",
        },
        "cut_scores": {
            str(level): [
                float(np.rint(expected_mean(np.array(level)) + SD * c)) for c in CUTS_IN_SD
            ]
            for level in range(YOUNGEST, OLDEST + 1)
        },
        "levels": LEVELS,
        "files": files,
    }


def _later(district: District, rolls: list[Array], out: Path, seed: int) -> dict[str, Any]:
    """What came to the district later; each has luck of its own, so that none moves another."""
    places = [np.flatnonzero(mask) for mask in rolls]
    classes, _ = _classes(district, 2, places[2], district.school[2][places[2]])
    return {
        **certificate.write_survey_tables(out, np.random.default_rng(seed + 2)),
        **certificate.write_writing(district, places, out, np.random.default_rng(seed + 3)),
        **certificate.write_certificate(district, places[1], out, np.random.default_rng(seed + 4)),
        **certificate.write_papers(
            out / "certificate-2025.csv", out, np.random.default_rng(seed + 6)
        ),
        **movement.write_movement(out),
        **leavers.write_leavers(district, places, out, np.random.default_rng(seed + 7)),
        **checks.write_checks(district, classes, places[2], out, np.random.default_rng(seed + 5)),
        **credits.write_credits(district, places, out, np.random.default_rng(seed + 8)),
    }


def _classes(district: District, year: int, at: Array, school: Array) -> tuple[Array, Array]:
    """Class and teacher of each student: classes of about CLASS_SIZE by school and year level."""
    level = district.level[at] - (2 - year)
    cell = school * 16 + level
    order = np.argsort(cell, kind="stable")
    sizes = np.bincount(cell)
    first = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    place = np.empty(len(at), np.int64)
    place[order] = np.arange(len(at)) - first[cell[order]]
    classes = np.maximum(1, np.round(sizes[cell] / CLASS_SIZE)).astype(np.int64)
    letter = place * classes // np.maximum(sizes[cell], 1)
    names = np.array([f"{n}{chr(65 + k % 26)}" for n, k in zip(level, letter, strict=True)])
    key = cell * 32 + letter
    given = np.array(GIVEN)[(key * 7 + year) % len(GIVEN)]
    family = np.array(FAMILY)[(key * 13 + key // 50) % len(FAMILY)]
    teacher = np.array([f"{g[0]}. {f}" for g, f in zip(given, family, strict=True)])
    return names, teacher


def _write_roster(district: District, year: int, mask: Array, school: Array, path: Path) -> None:
    at = np.flatnonzero(mask)
    classes, teachers = _classes(district, year, at, school[at])
    arrived = np.where((district.joined[at] == year) & (year > 0), "yes", "no")
    frame = {
        "Student number": district.number[at],
        "Given name": district.given[at],
        "Family name": district.family[at],
        "Birth date": [f"{d:%d/%m/%Y}" for d in district.birth[at].astype(object)],
        "School": np.array(district.schools)[school[at]],
        "Year level": [f"Year {n}" for n in district.level[at] - (2 - year)],
        "Class": classes,
        "Teacher": teachers,
        **{name: values[at] for name, values in district.characteristics.items()},
        "Arrived this year": arrived,
    }
    pl.DataFrame(frame).write_csv(path)


def _april(
    district: District, rng: np.random.Generator, autumn: Array, out: Path
) -> dict[str, Any]:
    """The spring term's roster: a few have left, a few have moved."""
    at = np.flatnonzero(autumn)
    some = max(2, len(at) // 250)
    picked = rng.choice(at, 2 * some, replace=False)
    gone, moved = picked[:some], picked[some:]
    mask = autumn.copy()
    mask[gone] = False
    school = district.school[2].copy()
    shift = rng.integers(1, len(district.schools), some)
    school[moved] = (school[moved] + shift) % len(district.schools)
    name = "roster-2025-26-april.csv"
    _write_roster(district, 2, mask, school, out / name)
    return {"kind": "roster", "year": "2025-26", "as_of": "2026-04-20", "rows": int(mask.sum()),
            "gone": some, "moved": some}  # fmt: skip


def _write_results(
    district: District, year: int, at: Array, rng: np.random.Generator, path: Path
) -> dict[str, Any]:
    """One file with both subjects; the newest one has what real files have."""
    frames, absent = [], 0
    for subject in SUBJECTS:
        score = district.scores[subject, year][at]
        level = district.level[at] - (2 - year)
        cells = score.astype(int).astype(str).astype(object)
        names = level_of(score, level).astype(object)
        code = rng.random(len(at))
        for low, high, word in ((0, 0.012, "abs"), (0.012, 0.017, "X"), (0.017, 0.019, "-")):
            hit = (code >= low) & (code < high)
            cells[hit], names[hit] = word, ""
            absent += int(hit.sum())
        there = rng.random(len(at)) > 0.01
        frames.append(
            pl.DataFrame(
                {
                    "at": at,
                    "Student No": district.number[at],
                    "Name": [
                        f"{g} {f}"
                        for g, f in zip(district.given[at], district.family[at], strict=True)
                    ],
                    "Test": [TEST] * len(at),
                    "Subject": [subject] * len(at),
                    "Sitting": [f"spring {2024 + year}"] * len(at),
                    "Test date": [f"{SPRINGS[year]:%d/%m/%Y}"] * len(at),
                    "Year": level,
                    "Scaled score": cells.astype(str),
                    "Level": names.astype(str),
                }
            ).filter(pl.Series(there))
        )
    frame = pl.concat(frames)
    facts: dict[str, Any] = {"kind": "results", "matched_rows": frame.height, "codes": absent}
    facts |= {"lost_zeros": 0, "copies": 0, "conflicts": 0, "unmatched": 0}
    if year == 2:
        frame, spoilt = _spoil(district, frame, rng)
        facts |= spoilt
    frame.drop("at").write_csv(path)
    coded = frame["Scaled score"].is_in(["abs", "X", "-"])
    return {**facts, "rows": frame.height, "codes": int(coded.sum())}


def _spoil(
    district: District, frame: pl.DataFrame, rng: np.random.Generator
) -> tuple[pl.DataFrame, dict[str, int]]:
    """Lost zeros, exact copies, contradicting doubles and numbers that nobody has."""
    places = np.array([s in ZEROS_LOST_AT for s in district.schools])
    lost = places[district.school[2][frame["at"].to_numpy()]]
    zero = pl.Series(lost) & frame["Student No"].str.starts_with("0")
    numbers = frame["Student No"].zip_with(~zero, frame["Student No"].str.strip_chars_start("0"))
    frame = frame.with_columns(numbers.alias("Student No"))
    sat = np.flatnonzero(~frame["Scaled score"].is_in(["abs", "X", "-"]).to_numpy())
    picked = rng.choice(sat, 24 + 5 + 8, replace=False)
    copies = frame[picked[:24]]
    conflicts = frame[picked[24:29]].with_columns(
        (pl.col("Scaled score").cast(pl.Int64) + 11).cast(pl.String).alias("Scaled score")
    )
    width = frame["Student No"].str.len_chars().max()
    nobody = frame[picked[29:]].with_columns(
        pl.Series("Student No", [f"9{n:0{int(str(width)) - 1}d}" for n in range(8)])
    )
    both = pl.concat([frame, copies, conflicts, nobody])
    both = both[rng.permutation(both.height)]
    short = int((both["Student No"].str.len_chars() < width).sum())
    return both, {"lost_zeros": short, "copies": 24, "conflicts": 5, "unmatched": 8}

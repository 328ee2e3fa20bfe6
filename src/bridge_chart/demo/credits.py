"""Harbour awards: credits of the two newest year 11s, standard by standard, what is estimated of
them, the rules of the awards, and three students who show what a rule is about."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo.district import OLDEST, SD, Array, District, expected_mean

RESULTS = ("Achieved", "Merit", "Excellence")
SUBJECTS = {"English": "E", "Mathematics": "M", "Science": "S", "Geography": "G", "Seamanship": "B"}
STANDARDS = (
    ("1", "internal", 6, "foundations"), ("2", "external", 5, "written paper"),
)  # fmt: skip
"""Of level 1, in each subject: last digit, kind, credits, title."""
STANDARDS_2 = (
    ("1", "internal", 5, "study"), ("2", "internal", 4, "report"),
    ("3", "internal", 4, "practical"), ("4", "external", 4, "written paper"),
)  # fmt: skip
EITHER = ("M22", "M25")
"""Two standards of the same matter, of which one counts."""
PRACTISED = ("Harbour mock", "M24", "March 2026")
"""A practice paper and the standard that it stands for: nobody estimates that by hand."""
COUNTS_AS = {"C": "Achieved", "B": "Merit", "A": "Excellence", "A*": "Excellence"}
EASE = {"internal": 1.05, "external": 0.75}
DONE = {"internal": 0.9, "external": 0.45}
"""Share of level 2 that is banked by April."""
CUTS = (0.0, 1.15, 2.0)
RELIABLE = 0.45
"""Spread of an outcome around what was estimated, in the units of CUTS."""
HEAD = ("Student number", "Standard", "Title", "Subject", "Level", "Kind", "Credits", "Result",
        "Banked", "Date")  # fmt: skip
Row = tuple[str, str, str, str, str, str, int, str, str, str]
AWARDS = """Award,Grade,Condition,Within,Joins,Credits,Subjects,Subject,Level,Kind,Result,Standards
Harbour award level 1,,Level total,,,40,,,1|2,,,
Harbour award level 1,,Reading,,,5,,,,,,E12|E21|E24
Harbour award level 1,,Number,,,6,,Mathematics,1|2,,,
Harbour award level 2,,Level total,,,50,,,2,,,
Harbour award level 2,,Reading,,,5,,,,,,E21|E24
Harbour award level 2,,Writing,,,4,,,,,,E22|G22
Harbour award level 2,,Number,,,8,,Mathematics,2,,,
Harbour award level 2,,Externals,,,8,,,2,external,,
Harbour award level 2,,Same matter,,once,,,,,,,M22|M25
Mainland entry,,Level total,,,50,,,2,,,
Mainland entry,,Three subjects,,,13,3,,2,,,
Mainland entry,,English,,,8,,English,2,,,
Mainland entry,,Same matter,,once,,,,,,,M22|M25
Award endorsement,,Externals,,,8,,,2,external,,
Award endorsement,Merit,Merits,,,40,,,2,,Merit|Excellence,
Award endorsement,Excellence,Excellences,,,40,,,2,,Excellence,
Subject endorsement,Merit,One subject,,,12,1,,2,,Merit|Excellence,
Subject endorsement,Merit,External part,One subject,,4,,,,external,Merit|Excellence,
Subject endorsement,Excellence,One subject to the top,,,12,1,,2,,Excellence,
Subject endorsement,Excellence,Its externals,One subject to the top,,4,,,,external,Excellence,
"""
ONE_SHORT, NO_EXTERNAL, NOT_TWICE = "one credit short", "all but the externals", "not twice"


def write_credits(
    district: District, rolls: list[Array], out: Path, rng: np.random.Generator
) -> dict[str, Any]:
    """The files of both cohorts and the rules. rolls: positions on roll in each school year."""
    before = rolls[1][district.level[rolls[1]] - 1 == OLDEST]
    now = rolls[2][district.level[rolls[2]] == OLDEST]
    earlier = _cohort(district, before, 2025, rng, done=True)
    newest = _cohort(district, now, 2026, rng, done=False)
    planted = _planted(district, now)
    numbers = {number for number, _ in planted}
    newest = [row for row in newest if row[0] not in numbers]
    newest += [row for _, rows in planted for row in rows]
    files = {}
    for name, rows in (("credits-2025.csv", earlier), ("credits-2026.csv", newest)):
        pl.DataFrame(rows, schema=list(HEAD), orient="row").write_csv(out / name)
        files[name] = {"kind": "credits", "rows": len(rows)}
    steps = [
        {"Test": "Credits", "Score": "grade", "Step": name, "Pass": passes}
        for name, passes in (("Not achieved", "no"), *((one, "yes") for one in RESULTS))
    ]
    pl.DataFrame(steps).write_csv(out / "credit-results.csv")
    test, standard, sitting = PRACTISED
    practice = [
        {"Test": test, "Subject": "Mathematics", "Sitting": sitting, "Score": "grade",
         "Value": grade, "Standard": standard, "Title": "Mathematics: written paper",
         "Level": "2", "Kind": "external", "Result": result, "Credits": 4}
        for grade, result in COUNTS_AS.items()
    ]  # fmt: skip
    pl.DataFrame(practice).write_csv(out / "practice.csv")
    files["practice.csv"] = {"kind": "practice", "rows": len(practice)}
    files["credit-results.csv"] = {"kind": "scale", "rows": len(steps)}
    (out / "awards.csv").write_text(AWARDS, encoding="utf-8")
    files["awards.csv"] = {
        "kind": "award", "rows": AWARDS.count("\n") - 1,
        "planted": dict(zip((ONE_SHORT, NO_EXTERNAL, NOT_TWICE), numbers_of(planted), strict=True)),
    }  # fmt: skip
    return files


def numbers_of(planted: list[tuple[str, list[Row]]]) -> list[str]:
    return [number for number, _ in planted]


def _cohort(
    district: District, at: Array, year: int, rng: np.random.Generator, *, done: bool
) -> list[Row]:
    """A year 11 with its level 1 of the year before and its level 2. done: level 2 is over, and
    what was estimated in April stands beside what came of it; else April is now."""
    start = np.stack([
        (district.scores[s, 1 if year == 2026 else 0][at]
         - expected_mean(district.level[at] - (1 if year == 2026 else 2))) / SD
        for s in ("Mathematics", "Reading")
    ]).mean(axis=0)  # fmt: skip
    able = np.nan_to_num(start)
    rows: list[Row] = []
    for subject, letter in SUBJECTS.items():
        own = able * 0.7 + rng.normal(0, 0.5, len(at))
        for last, kind, credits, title in STANDARDS:
            shows = own + EASE[kind] + rng.normal(0, 0.4, len(at))
            date = dt.date(year - 1, 6, 12)
            about = (f"{letter}1{last}", f"{subject}: {title}", subject, "1", kind, credits)
            rows += _rows(district, at, shows, about, "banked", date)
        for last, kind, credits, title in STANDARDS_2:
            hoped = own + EASE[kind] - 0.1 + rng.normal(0, 0.4, len(at))
            came = hoped + rng.normal(0, RELIABLE, len(at))
            about = (f"{letter}2{last}", f"{subject}: {title}", subject, "2", kind, credits)
            sat = rng.random(len(at)) < DONE[kind]
            april, june = dt.date(year, 4, 24), dt.date(year, 6, 18)
            rows += _rows(district, at[sat], came[sat], about, "banked", dt.date(year, 3, 13))
            if done or f"{letter}2{last}" != PRACTISED[1]:
                rows += _rows(district, at[~sat], hoped[~sat], about, "estimated", april)
            if done:
                rows += _rows(district, at[~sat], came[~sat], about, "banked", june)
    return rows


def _rows(
    district: District, at: Array, shows: Array, about: tuple[str, str, str, str, str, int],
    standing: str, date: dt.date,
) -> list[Row]:  # fmt: skip
    """A row for everybody who reaches the lowest result."""
    place = np.searchsorted(CUTS, shows, side="right")
    return [
        (str(district.number[student]), *about, RESULTS[n - 1], standing, str(date))
        for student, n in zip(at.tolist(), place.tolist(), strict=True)
        if n
    ]


def _planted(district: District, now: Array) -> list[tuple[str, list[Row]]]:
    """Three students who were there all the time, each with every record of their own: of the level
    2 award all but one credit in the total; all but the externals; and as many credits as it asks
    only if two standards of the same matter both counted."""
    there = now[(district.joined[now] == 0) & (district.left[now] == 3)]
    short, closed, twice = (str(district.number[one]) for one in there[:3])
    whole = [f"{letter}2{last}" for letter in "EM" for last in "1234"]
    return [
        # 17 in each of two subjects, and 5 in each of three: 49.
        (short, _banked(short, [*whole, "S21", "G21", "B21"])),
        # No external: 13 in each of four subjects, 52.
        (closed, _banked(closed, [f"{c}2{n}" for c in "EMSG" for n in "123"])),
        # 46 and M25: 50 only where it counts beside M22.
        (twice, _banked(twice, [*whole, "S22", "S23", "G22", "M25"])),
    ]


def _banked(number: str, standards: list[str]) -> list[Row]:
    names = {letter: subject for subject, letter in SUBJECTS.items()}
    told = {last: (kind, credits, title) for last, kind, credits, title in STANDARDS_2}
    told["5"] = ("internal", 4, "report, again")
    rows: list[Row] = []
    for one in standards:
        kind, credits, title = told[one[2]]
        subject = names[one[0]]
        rows.append((number, one, f"{subject}: {title}", subject, "2", kind, credits, "Achieved",
                     "banked", "2026-03-13"))  # fmt: skip
    return rows

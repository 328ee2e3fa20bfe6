"""Harbour check: thirty questions in five strands, two forms, each with its national table."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo.answers import QUESTIONS, TITLES, topic_of, write_answers
from bridge_chart.demo.district import SD, Array, District, expected_mean

TEST = "Harbour check"
SUBJECT = "Mathematics"
SITTINGS = (("autumn 2025", dt.date(2025, 11, 18), "autumn"),
            ("winter 2026", dt.date(2026, 2, 10), "winter"))  # fmt: skip
STRANDS = ("Number", "Fractions", "Algebra", "Shape and space", "Problems in words")
YEAR_LEVELS = (7, 8, 9)
FORMS = ("A", "B")
MAXIMA = (1, 1, 2, 1, 1, 2)
"""Marks of the six questions of a strand."""
WORDS_EFFECT = -1.6
"""Log-odds that English learners lose in “Problems in words” beyond their score."""
CLASS_EFFECT = -1.7
WEAK_CLASS = ("Netherby", "8B")
WEAK_STRANDS = ("Fractions", "Shape and space")
"""Log-odds that one class loses in two strands."""
TOPIC, HAS_TOPIC, TOPIC_EFFECT = "Angles", "8A", 0.9
"""A topic that one class lacks and the one beside it has, in log-odds."""
UNFAIR, UNFAIR_EFFECT = 4, -1.3
"""A question of form B that is harder for students with meal support, at equal totals: the price
of a ferry meal is in it."""
ANSWERS_SEED = 20261723
FORM_B_HARDER = 0.25
BOUNDARIES = (("Working towards", 0), ("Expected", 20), ("Beyond", 31))
"""The lowest raw mark of each standard on form A."""
NATION = 30_000
NEXT_STEPS = (
    ("Number", "", "Place value to a million, with a number line", "unit 2.1"),
    ("Fractions", "", "Fractions of a length, then equal fractions side by side", "unit 8.2"),
    ("Algebra", "", "Letters for numbers in patterns that the student draws", "unit 8.6"),
    ("Shape and space", "", "Angles on a line and in a triangle", "unit 8.4"),
    ("Problems in words", "", "Say the problem again in own words before any sum", "unit 8.9"),
)
"""Strand, level (any), what to do next, where."""
LEARNERS = ("developing", "new to English")


def write_checks(
    district: District, classes: Array, on_roll: Array, out: Path, rng: np.random.Generator
) -> dict[str, Any]:
    """The grids of two terms, the question table and the national table. `classes`: the class
    names of 2025-26 of the students at `on_roll` (positions)."""
    at = on_roll[np.isin(district.level[on_roll], YEAR_LEVELS)]
    names = classes[np.isin(district.level[on_roll], YEAR_LEVELS)]
    level = district.level[at]
    ability = (district.scores[SUBJECT, 2][at] - expected_mean(level)) / SD
    learner = np.isin(district.characteristics["English fluency"][at], LEARNERS)
    schools = np.array(district.schools)[district.school[2][at]]
    weak = (schools == WEAK_CLASS[0]) & (names == WEAK_CLASS[1])
    lacking = weak.astype(float) - ((schools == WEAK_CLASS[0]) & (names == HAS_TOPIC))
    supported = district.characteristics["Meal support"][at] == "yes"
    easiness = _easiness(rng)
    files: dict[str, Any] = {}
    figures: list[dict[str, Any]] = []
    for term, (sitting, date, short) in enumerate(SITTINGS):
        form = rng.integers(0, 2, len(at))
        extra = np.zeros((len(at), 30))
        extra[:, _of("Problems in words")] += WORDS_EFFECT * learner[:, None]
        for strand in WEAK_STRANDS:
            extra[:, _of(strand)] += CLASS_EFFECT * weak[:, None]
        extra[:, [n for n in range(30) if topic_of(n) == TOPIC]] -= TOPIC_EFFECT * lacking[:, None]
        extra[:, UNFAIR] += UNFAIR_EFFECT * (supported & (form == FORMS.index("B")))
        now = ability + 0.15 * term
        marks = _marks(rng, now, form, easiness, extra)
        name = f"check-{short}.csv"
        files[name] = _write_grid(district, at, level, form, marks, now, rng, out / name)
        files[name] |= {"kind": "results", "test": TEST, "subject": SUBJECT, "sitting": sitting,
                        "date": str(date)}  # fmt: skip
        figures += _national(sitting, 0.1 + 0.15 * term, easiness, rng)
    files |= write_answers(out / "check-winter.csv", out, np.random.default_rng(ANSWERS_SEED))
    winter = {key: files["check-winter.csv"][key] for key in ("test", "subject", "sitting", "date")}
    files["check-winter-answers.csv"] |= winter
    pl.DataFrame(_boundaries()).write_csv(out / "check-scale.csv")
    files["check-scale.csv"] = {"kind": "scale", "rows": 2 * len(BOUNDARIES)}
    pl.DataFrame(_questions()).write_csv(out / "check-questions.csv")
    pl.DataFrame(figures, infer_schema_length=None).write_csv(out / "check-national.csv")
    pl.DataFrame(_next_steps()).write_csv(out / "next-steps.csv")
    files["next-steps.csv"] = {"kind": "next_steps", "rows": len(NEXT_STEPS)}
    files["check-questions.csv"] = {"kind": "questions", "rows": 30}
    files["check-national.csv"] = {"kind": "national", "rows": len(figures)}
    return files


def _of(strand: str) -> slice:
    first = 6 * STRANDS.index(strand)
    return slice(first, first + 6)


def _easiness(rng: np.random.Generator) -> Array:
    """Log-odds of a mark for a middling student, by form and question."""
    base = np.concatenate([
        mean + np.linspace(0.9, -0.9, 6) + rng.normal(0, 0.15, 6)
        for mean in (0.9, 0.2, 0.1, 0.4, -0.1)
    ])  # fmt: skip
    return np.stack([base, base - FORM_B_HARDER])


def _marks(
    rng: np.random.Generator, ability: Array, form: Array, easiness: Array, extra: Array
) -> Array:
    """(students, 30) marks: each mark of a question is won with the same odds."""
    chance = 1 / (1 + np.exp(-(1.1 * ability[:, None] + easiness[form] + extra)))
    marks: Array = rng.binomial(np.tile(MAXIMA, 5), chance)
    return marks


def _scaled(marks: Array, form: Array) -> Array:
    """Scaled score of the total: form B is stretched so that both mean the same."""
    scaled: Array = np.rint(70 + 1.5 * (marks.sum(axis=1) + 1.6 * form))
    return scaled


def _write_grid(
    district: District, at: Array, level: Array, form: Array, marks: Array, ability: Array,
    rng: np.random.Generator, path: Path,
) -> dict[str, Any]:  # fmt: skip
    there = rng.random(len(at)) > 0.03
    cells = marks.astype(str).astype(object)
    skipped = rng.random(cells.shape) < 0.01
    cells[skipped] = ""
    counted = np.where(skipped, 0, marks)
    rows = {
        "Student No": district.number[at],
        "Name": [f"{g} {f}" for g, f in zip(district.given[at], district.family[at], strict=True)],
        "Year": level.astype(str),
        "Form": np.array(FORMS)[form],
        **{f"Q{n + 1}": cells[:, n].astype(str) for n in range(30)},
        "Scaled score": _scaled(counted, form).astype(int).astype(str),
    }
    frame = pl.DataFrame(rows).filter(pl.Series(there))
    top = dict.fromkeys(rows, "") | {"Student No": "Maximum marks"}
    top |= {f"Q{n + 1}": str(MAXIMA[n % 6]) for n in range(30)}
    pl.concat([pl.DataFrame(top), frame]).write_csv(path)
    return {"rows": frame.height + 1, "matched_rows": frame.height}


def _questions() -> list[dict[str, Any]]:
    kinds = ("short answer", "choice")
    return [
        {
            "Test": TEST,
            "Subject": SUBJECT,
            "Question": f"Q{n + 1}",
            "Maximum": MAXIMA[n % 6],
            "Title": TITLES[n],
            "Strand": STRANDS[n // 6],
            "Topic": topic_of(n),
            "Type": kinds[f"Q{n + 1}" in QUESTIONS],
            "Page": 1 + n // 8,
            "Common": f"H{n + 1:02d}",
        }
        for n in range(30)
    ]


def _boundaries() -> list[dict[str, Any]]:
    """In raw marks; the harder form's are lower."""
    return [
        {"Test": TEST, "Subject": SUBJECT, "Score": "level", "Step": step, "In": "raw marks",
         "Form": form, "From": max(lowest - harder, 0), "Pass": "yes" if lowest > 15 else "no"}
        for form, harder in (("A", 0), ("B", 2))
        for step, lowest in BOUNDARIES
    ]  # fmt: skip


def _next_steps() -> list[dict[str, str]]:
    heads = ("Strand", "Level", "Text", "Link")
    return [{"Subject": SUBJECT, **dict(zip(heads, row, strict=True))} for row in NEXT_STEPS]


def _national(
    sitting: str, ability: float, easiness: Array, rng: np.random.Generator
) -> list[dict[str, Any]]:
    """The nation's figures by form and year level, from a made-up nation of its own."""
    out = []
    for form, name in enumerate(FORMS):
        people = rng.normal(ability, 1.0, NATION)
        forms = np.full(NATION, form)
        marks = _marks(rng, people, forms, easiness, np.zeros((NATION, 30)))
        for level in YEAR_LEVELS:
            about = {"Test": TEST, "Subject": SUBJECT, "Sitting": sitting, "Form": name,
                     "Year level": level, "Published": "2026-03-02"}  # fmt: skip
            for score, values in (("raw", marks.sum(axis=1)), ("scaled", _scaled(marks, forms))):
                out += figures_of(about | {"Score": score}, values)
            for strand in STRANDS:
                of_strand = about | {"Score": "raw", "Part": strand}
                out += figures_of(of_strand, marks[:, _of(strand)].sum(axis=1))
            full = np.tile(MAXIMA, 5)
            out += [
                about | {"Score": "raw", "Statistic": "facility", "Of": f"Q{n + 1}",
                         "Value": round(float(marks[:, n].mean() / full[n]), 4)}
                for n in range(30)
            ]  # fmt: skip
    return out


def figures_of(about: dict[str, Any], values: Array) -> list[dict[str, Any]]:
    """Count, mean, spread and percentiles of a made-up nation as rows of a national table."""
    plain = {"n": len(values), "mean": values.mean(), "sd": values.std(ddof=1)}
    rows = [about | {"Statistic": k, "Of": "", "Value": round(float(v), 3)}
            for k, v in plain.items()]  # fmt: skip
    for p in (1, *range(5, 100, 5), 99):
        value = float(np.percentile(values, p))
        rows.append(about | {"Statistic": "percentile", "Of": str(p), "Value": round(value, 2)})
    return rows

"""What the students of the winter check chose and wrote: a row per answer, a key for each form.

One key is wrong: on form B a question is marked by an option that few of the best chose. What one
class finds tempting, another explains rightly.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.demo.district import Array

LETTERS = ("A", "B", "C", "D")
QUESTIONS = tuple(f"Q{n + 1}" for n in range(30) if n % 6 in (1, 3))
"""Those of one mark of which one option is chosen."""
WRONG_KEY = ("B", "Q10", "winter 2026")
"""Form, question and sitting whose key says a wrong option."""
TOLD = "Q8"
"""The question that the eighth year explains in writing."""
TITLES = (
    "Rounding to tens", "Factors of 36", "Change from a fare", "Which is the largest",
    "A ferry timetable", "In which order",
    "Order these fractions", "Dividing by a half", "Three quarters of a crew", "Equal fractions",
    "Halving a rope", "Sharing a catch",
    "Solve for x", "Expand a bracket", "Next in the pattern", "Letters for lengths",
    "Balance the scales", "Two unknowns",
    "Angles on a line", "Angles in a triangle", "Area of a kite", "Turns of a wheel",
    "A net of a box", "Distance on a chart",
    "Two ferries meet", "Sharing the bill", "Filling the tank", "The longer way", "Ten tickets",
    "Crates on the quay",
)  # fmt: skip
TOPICS = (
    ("Numbers", "Money and time", (0, 1, 3)),
    ("Equal fractions", "Dividing and sharing", (0, 3, 4)),
    ("Equations", "Expressions", (0, 4, 5)), ("Angles", "Lengths and areas", (0, 1, 3)),
    ("Rates", "Parts and wholes", (0, 2, 3)),
)  # fmt: skip
"""Of each strand two topics; which of its six questions are about the first."""
OPTIONS = {
    "Q2": ("8", "9", "10", "12"), "Q4": ("0.5", "0.45", "0.405", "0.054"),
    "Q8": ("6 ÷ ½ = 3", "6 ÷ ½ = 12", "6 ÷ ½ = 6½", "it cannot be done"),
    "Q20": ("60°", "70°", "80°", "110°"),
}  # fmt: skip
RIGHT = {"Q2": 1, "Q4": 0, "Q8": 1, "Q20": 1}
"""The place of what is right where the options have words; the others' keys are drawn."""
SAYS = {
    "right": ("How many halves go into six? Twelve.", "You turn it over and times.",
              "There are two halves in each of six"),
    "wrong": ("Half of six is three.", "Dividing makes it smaller.", "6 and a half is 6½"),
}  # fmt: skip
LIKELY = {"right": (0.8, 0.12, 0.08), "wrong": (0.62, 0.28, 0.1)}


def topic_of(n: int) -> str:
    """What the n-th question is about."""
    first, second, places = TOPICS[n // 6]
    return first if n % 6 in places else second


def write_answers(grid: Path, out: Path, rng: np.random.Generator) -> dict[str, Any]:
    """The answers behind a grid of marks, and the keys of both forms."""
    marks = pl.read_csv(grid, infer_schema=False).filter(pl.col("Year") != "")
    keys = {form: rng.integers(0, len(LETTERS), len(QUESTIONS)) for form in ("A", "B")}
    for held in keys.values():
        for name, right in RIGHT.items():
            held[QUESTIONS.index(name)] = right
    rows: list[pl.DataFrame] = []
    form = marks["Form"].to_numpy()
    for place, name in enumerate(QUESTIONS):
        key = np.where(form == "A", keys["A"][place], keys["B"][place])
        given = marks[name].to_numpy()
        chosen = np.where(given == "1", key, _wrong(key, rng))
        answered = pl.Series(given != "")
        texts = _texts(marks, name, given, rng)
        rows.append(pl.DataFrame({
            "Student No": marks["Student No"], "Form": marks["Form"],
            "Question": pl.Series([name]).new_from_index(0, marks.height),
            "Option": np.array(LETTERS, object)[chosen].astype(str), "Explanation": texts,
        }).filter(answered))  # fmt: skip
    frame = pl.concat(rows).sort("Student No", maintain_order=True)
    frame.write_csv(out / "check-winter-answers.csv")
    pl.DataFrame(_keys(keys)).write_csv(out / "check-keys.csv")
    return {
        "check-winter-answers.csv": {"kind": "results", "rows": frame.height},
        "check-keys.csv": {"kind": "questions", "rows": 2 * len(QUESTIONS)},
    }


def _wrong(key: Array, rng: np.random.Generator) -> Array:
    """A wrong option of each: the one behind the key tempts most."""
    away = rng.choice([1, 2, 3], size=len(key), p=[0.6, 0.25, 0.15])
    return np.asarray((key + 4 - away) % 4)


def _texts(marks: pl.DataFrame, name: str, given: Array, rng: np.random.Generator) -> list[str]:
    """What the eighth year wrote, in the ways in which people write the same thing."""
    if name != TOLD:
        return [""] * marks.height
    told = (marks["Year"].to_numpy() == "8") & (rng.random(marks.height) < 0.8) & (given != "")
    out = []
    for wrote, mark in zip(told, given, strict=True):
        kind = "right" if mark == "1" else "wrong"
        text = SAYS[kind][int(rng.choice(3, p=LIKELY[kind]))]
        way = int(rng.integers(0, 3))
        said = (text, text.rstrip(".").lower(), f"{text.rstrip('.')}!")[way]
        out.append(said if wrote else "")
    return out


def _keys(keys: dict[str, Array]) -> list[dict[str, Any]]:
    rows = []
    for form, held in keys.items():
        for place, name in enumerate(QUESTIONS):
            key = int(held[place])
            if (form, name) == WRONG_KEY[:2]:
                key = (key + 1) % 4
            says = OPTIONS.get(name)
            words = " | ".join(
                f"{letter}: {text}" for letter, text in zip(LETTERS, says, strict=True)
            ) if says else " | ".join(LETTERS)  # fmt: skip
            rows.append({
                "Test": "Harbour check", "Subject": "Mathematics", "Sitting": WRONG_KEY[2],
                "Form": form, "Question": name, "Key": LETTERS[key], "Options": words,
            })  # fmt: skip
    return rows

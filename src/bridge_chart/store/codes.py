"""Small integers in the record and the snapshot, and the words they stand for."""

from __future__ import annotations

STATUSES = ("no_row", "sat", "absent", "exempt", "withheld", "not_sat")
"""A result's status; the index is what is stored."""

CLASS_KINDS = ("class", "form", "set")
"""What a roster calls a class: just that, a form or tutor group, a set or teaching group; the index
is what is stored. A roster replaces classes of the kinds that it has."""

SCORES = ("raw", "percent", "scaled", "level", "grade", "points", "percentile", "credits")
"""Kinds of score; the index is what is stored."""

UNITS = {
    "raw": "marks",
    "percent": "%",
    "scaled": "scaled-score points",
    "level": "level",
    "grade": "grade",
    "points": "points",
    "percentile": "percentile rank",
    "credits": "credits",
}
SCORE_NAMES = {
    "raw": "raw mark",
    "percent": "percent",
    "scaled": "scaled score",
    "level": "level",
    "grade": "grade",
    "points": "points",
    "percentile": "percentile rank",
    "credits": "credits banked",
}
CREDITS = "Credits"
"""What the credit records of students are called where a question names a test."""
IN_FIGURES = ("scaled", "raw", "percent")
"""Kinds of score that are figures, the most telling first."""
STEPPED = frozenset({"level", "grade"})

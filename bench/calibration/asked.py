"""Everyday questions, and what in their answers is a claim."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.asking.answer import Answer

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
EACH = {**MATHS, "subject": "each"}
SCHOOL, CLASS = {"field": "school"}, {"field": "class"}
LANGUAGE, SEX = {"characteristic": "Home language"}, {"characteristic": "Sex"}
MEALS = {"characteristic": "Meal support"}
PRIOR: dict[str, Any] = {"prior": {}}
REST: dict[str, Any] = {"group": {"who": {}}}
LEVEL = {**MATHS, "score": "level"}

QUESTIONS: dict[str, dict[str, Any]] = {
    "schools against where they started": {"what": [MATHS], "split": [SCHOOL], "against": PRIOR},
    "classes against where they started": {"what": [MATHS], "split": [CLASS], "against": PRIOR},
    "language against where they started": {"what": [MATHS], "split": [LANGUAGE], "against": PRIOR},
    "sex against where they started": {"what": [MATHS], "split": [SEX], "against": PRIOR},
    "schools against the rest": {"what": [MATHS], "split": [SCHOOL], "against": REST},
    "classes against the rest": {"what": [MATHS], "split": [CLASS], "against": REST},
    "meal support against the rest": {"what": [MATHS], "split": [MEALS], "against": REST},
    "school × language, against start": {"what": [MATHS], "split": [SCHOOL, LANGUAGE],
                                         "against": PRIOR},
    "school × sex, no yardstick": {"what": [MATHS], "split": [SCHOOL, SEX]},
    "three subjects × school, against start": {"what": [EACH], "split": [SCHOOL], "against": PRIOR},
    "three subjects × class, against start": {"what": [EACH], "split": [CLASS], "against": PRIOR},
    "schools, pooled": {"what": [MATHS], "split": [SCHOOL],
                        "against": {"prior": {"model": "multilevel"}}},
    "classes, pooled": {"what": [MATHS], "split": [CLASS],
                        "against": {"prior": {"model": "multilevel"}}},
    "schools by a smooth curve": {"what": [MATHS], "split": [SCHOOL],
                                  "against": {"prior": {"expect": "spline"}}},
    "schools against last year": {"what": [MATHS], "split": [SCHOOL],
                                  "against": {"earlier": {"measure": {
                                      "assessment": "same", "sitting": {"back": 1}}}}},
    "start bands against start": {"what": [MATHS], "split": [{"band": "prior"}], "against": PRIOR},
    "strip, no yardstick": {"what": [MATHS], "show": "strip"},
    "strip, against start": {"what": [MATHS], "show": "strip", "against": PRIOR},
    "over time by school, against start": {"what": [MATHS], "show": "over_time", "split": [SCHOOL],
                                           "against": PRIOR, "who": {"as_of": "today"}},
    "over time by sex": {"what": [MATHS], "show": "over_time", "split": [SEX],
                         "who": {"as_of": "today"}},
    "make-up of those below": {"what": [MATHS], "show": "make_up", "focus": [
        {"measure": {"derive": "span", "of": MATHS, "against": PRIOR}, "below": 0}]},
    "levels by sex": {"what": [LEVEL], "show": "levels", "split": [SEX]},
}  # fmt: skip

CLAIMS = ("ahead", "behind", "size")


def claims(answer: Answer) -> int:
    """How many marks and sentences of an answer say that something differs."""
    body = answer.body
    rows = [*getattr(body, "rows", []), *getattr(body, "entries", [])]
    marks = sum(getattr(row, "verdict", None) in ("ahead", "behind", "more", "fewer")
                for row in rows)  # fmt: skip
    beyond = sum(getattr(row, "beyond_chance", None) is True for row in rows)
    said = sum(reading.kind in CLAIMS for reading in answer.readings)
    return marks + beyond + said

"""What one answer claims, and how that stands to what is true of its district."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.special import ndtr

from bench.calibration.asked import POOLED, Asked
from bench.calibration.truth import CUTS, POINTS, MadeSnapshot, Truth
from bridge_chart.answers.asking.answer import Answer
from bridge_chart.store.snapshot import Array

CLAIMS = ("ahead", "behind", "size", "trust", "above", "below")
NOTHING = 0.02
"""An effect of less than this many sds is none."""
LATEST = "30.scaled"


def claims(answer: Answer) -> int:
    """How many marks and sentences of an answer say that something differs."""
    body = answer.body
    rows = [*getattr(body, "rows", []), *getattr(body, "entries", [])]
    marks = sum(getattr(row, "verdict", None) in ("ahead", "behind", "more", "fewer")
                for row in rows)  # fmt: skip
    beyond = sum(getattr(row, "beyond_chance", None) is True for row in rows)
    lines = [point for one in getattr(body, "series", []) for point in getattr(one, "points", [])]
    moved = sum(point.verdict in ("ahead", "behind") or point.moved for point in lines)
    said = sum(reading.kind in CLAIMS for reading in answer.readings)
    return marks + beyond + moved + said


def is_null(truth: Truth, asked: Asked) -> bool:
    """Whether nothing differs of all that a question could claim."""
    held, judged = asked.held, asked.judged
    of_place = judged in ("school", "class") or asked.mixed
    if truth.class_sd and (
        judged == "class" or (asked.mixed and asked.question.get("show") == "strip")
    ):
        return False
    if truth.intake_sd and held == "sittings":
        return False  # who starts low comes nearer to the middle, all together
    if truth.intake_sd and held in ("rest", "nothing", "earlier") and of_place:
        return False
    if truth.effects and (of_place or held == "sittings"):
        return False
    if truth.group_effect and (judged in ("meals",) or asked.mixed or held == "sittings"):
        return False
    if truth.ceiling is not None and judged == "all" and held == "start":
        return False  # a line through scores with a ceiling lies off at the ends
    # Regression to the mean is named, and then it is no claim of a cause, but no null either.
    return not (judged == "all" and held == "earlier")


@dataclass(frozen=True)
class Scored:
    """covered, rows: intervals that hold what they are of; right, wrong: marks whose effect is of
    their sign, or of the other; nought: marks of no effect; found, true: by size of effect."""

    covered: int
    rows: int
    right: int
    wrong: int
    nought: int
    sizes: dict[float, tuple[int, int]]


def scored(snapshot: MadeSnapshot, truth: Truth, asked: Asked, answer: Answer) -> Scored:
    """An answer's rows against the truth, where it is known what they are of."""
    covered = rows = right = wrong = nought = 0
    sizes: dict[float, tuple[int, int]] = {}
    for row, mine in _rows(snapshot, asked, answer):
        target, contrast = _targets(snapshot, truth, asked, mine)
        if target is not None and row.low is not None and row.value is not None:
            rows += 1
            covered += row.low <= target <= row.high
        if contrast is None or not truth.effects:
            continue
        marked = {"ahead": 1, "behind": -1}.get(row.verdict, 0)
        small = abs(contrast) < NOTHING
        nought += bool(marked and small)
        right += bool(marked and not small and marked * contrast > 0)
        wrong += bool(marked and not small and marked * contrast < 0)
        size = round(abs(_effect(truth, row)), 2)
        if size and row.verdict != "few":
            found, of = sizes.get(size, (0, 0))
            sizes[size] = (found + (marked * contrast > 0), of + 1)
    return Scored(covered, rows, right, wrong, nought, sizes)


def _effect(truth: Truth, row: Any) -> float:
    kind, _, at = row.key.partition("-")
    if kind != "school" or not at.isdigit() or int(at) > len(truth.effects):
        return 0.0
    return truth.effects[int(at) - 1]


def _rows(snapshot: MadeSnapshot, asked: Asked, answer: Answer) -> Iterator[tuple[Any, Array]]:
    """Rows of one measure and one split by school, class or characteristic, with their students."""
    question = asked.question
    split = question.get("split", [])
    if question.get("show", "spans") != "spans" or len(split) != 1 or len(answer.measures) > 1:
        return
    of_who = np.ones(snapshot.students, bool)
    for condition in question.get("who", {}).get("all", []):
        values = condition["in"]
        if "field" in condition:
            of_who &= np.asarray(snapshot.rolls[-1].school) == int(values[0].split()[1]) - 1
        else:
            of_who &= _characteristic(snapshot, condition["characteristic"], values[0])
    for row in answer.body.rows:
        kind, _, at = row.key.partition("-")
        if kind == "school":
            mine = np.asarray(snapshot.rolls[-1].school) == int(at) - 1
        elif kind == "class":
            members = snapshot.rolls[-1].members
            mine = np.zeros(snapshot.students, bool)
            mine[members[members[:, 1] == int(at) - 1, 0]] = True
        elif "characteristic" in split[0]:
            mine = _characteristic(snapshot, split[0]["characteristic"], row.label.split(": ")[-1])
        else:
            continue
        yield row, mine & of_who


def _characteristic(snapshot: MadeSnapshot, name: str, value: str) -> Array:
    item = next(c for c in snapshot.characteristics if c.name == name)
    values = snapshot.rolls[-1].characteristic(item.id, snapshot.students)
    return np.asarray(values == [o.name for o in item.options].index(value))


def _targets(
    snapshot: MadeSnapshot, truth: Truth, asked: Asked, mine: Array
) -> tuple[float | None, float | None]:
    """What a row's interval is of, in its unit; and the effect that its mark is of, in sds. What
    classes add belongs to a class, and varies for all others."""
    judged_class = asked.judged == "class"
    mean = snapshot.ability[LATEST] + (snapshot.added[LATEST] if judged_class else 0.0)
    share = "statistic" in asked.question["what"][0]
    known = truth.ceiling is None and not truth.grades and truth.reliability == 1
    if not known or asked.question.get("against") == POOLED:
        return None, None
    start = snapshot.ability["20.scaled"]
    effect = mean - 0.8 * start
    if asked.held == "start":
        off = float(effect[mine].mean() - effect.mean())
        return POINTS * off, float(effect[mine].mean() - effect[~mine].mean())
    if share:
        return _share(truth, mean, mine, asked), None
    if asked.held == "nothing":
        return 300 + POINTS * float(mean[mine].mean()), None
    if asked.held == "rest":
        gap = float(mean[mine].mean() - mean[~mine].mean())
        return POINTS * gap, gap
    moved = mean - start
    return POINTS * float(moved[mine].mean()), float(moved[mine].mean() - moved[~mine].mean())


def _share(truth: Truth, mean: Array, mine: Array, asked: Asked) -> float:
    """Expected share who pass, in percent: at or above the third level."""

    sd = np.sqrt(1 + (0 if asked.judged == "class" else truth.class_sd**2))
    passed = 100 * ndtr((mean - CUTS[1]) / sd)
    if asked.held == "rest":
        return float(passed[mine].mean() - passed[~mine].mean())
    return float(passed[mine].mean())

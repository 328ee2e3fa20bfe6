"""What stands out about a student, in words that claim no more than one test can."""

from __future__ import annotations

from bridge_chart.answers.person.page import Result, Said, Timeline
from bridge_chart.terms.wording import count, number

RUN = 3
"""So many results in a row beyond one error of prediction are a finding; chance alone gives three
on one side to one subject in 250."""
BEYOND_BY_CHANCE = 0.317
"""Of results like their similar starters', the share beyond one error of prediction."""
WORDS = {"behind": "behind", "ahead": "ahead of"}


def findings(lines: list[Timeline], results: list[Result]) -> list[Said]:
    """A sentence for each subject, runs first; and how many marks chance alone would give."""
    said = [one for line in lines if (one := _of(line, results)) is not None]
    order = {"finding": 0, "hint": 1, "plain": 2, "chance": 3}
    said.sort(key=lambda one: order[one.kind])
    judged = [r for r in results if r.error is not None]
    marked = sum(r.sign in WORDS for r in judged)
    if judged:
        by_chance = number(len(judged) * BEYOND_BY_CHANCE, 0)
        said.append(Said(kind="chance", sign="", text=(
            f"Marked: {marked} of {count(len(judged), 'result')}; chance alone would give about "
            f"{by_chance}."
        )))  # fmt: skip
    return said


def _of(line: Timeline, results: list[Result]) -> Said | None:
    judged = [results[at] for at in line.results if results[at].error is not None]
    if not judged:
        return None
    newest = judged[-1]
    run = _run(judged)
    if run >= RUN and newest.sign in WORDS:
        return Said(kind="finding", sign=newest.sign, text=(
            f"{line.about} has come out {WORDS[newest.sign]} students who started alike in "
            f"{run} sittings in a row, each time by more than one error of prediction."
        ))  # fmt: skip
    if newest.sign in WORDS:
        return Said(kind="hint", sign=newest.sign, text=(
            f"{line.about}, {newest.sitting}, lies {WORDS[newest.sign]} what students who started "
            "alike reached, by more than one error of prediction. A single result is a hint."
        ))  # fmt: skip
    return Said(kind="plain", sign="none", text=(
        f"{line.about} is within what students who started alike reach."
    ))  # fmt: skip


def _run(judged: list[Result]) -> int:
    """How many of the newest results in a row have the newest one's mark."""
    run = 0
    for result in reversed(judged):
        if result.sign != judged[-1].sign:
            break
        run += 1
    return run

"""Inside a test: 31,000 students by 120 questions, each lens against a bare aggregation in pandas.

The alternative starts from a typed frame in memory and gives mean marks by school and question
only; ours starts from the snapshot and gives the whole Answer as JSON, with intervals, distances
from the rest, false discoveries. The figures are checked to agree.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from typing import Any

import numpy as np
import pandas as pd

from bench.district import Bench, median_of, say
from bridge_chart.answers.asking.ask import answer_on, read_question
from bridge_chart.answers.asking.bind import bind
from bridge_chart.cli.bring_in import bring_in
from bridge_chart.core.items.marks import mark_sheet
from bridge_chart.core.items.questions import facility
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import snapshot_of

STUDENTS, QUESTIONS, LETTERS = 31_000, 120, "ABCD"
TEST = {"assessment": "Long paper", "sitting": "spring"}
CHOICE = 60
"""Of so many questions an option is chosen; the others have up to three marks."""
Row = tuple[str, float, str]


def inside_rows(bench: Bench, runs: int) -> list[Row]:
    """The ratios; below 1 we are faster."""
    snapshot = _with_paper(bench)
    frame = _flat(snapshot)
    say(f"inside a test of {len(frame):,} students by {QUESTIONS} questions")
    names = [f"Q{n + 1}" for n in range(QUESTIONS)]

    def pandas_way() -> pd.DataFrame:
        return frame.groupby("school")[names].mean()

    lenses: dict[str, dict[str, Any]] = {
        "strands by school, beside the rest": {
            "split": [{"field": "school"}], "against": {"group": {"who": {}}},
            "options": {"by": "strand"}},
        "questions by sex, beside the rest": {
            "split": [{"characteristic": "Sex"}], "against": {"group": {"who": {}}}},
        "strands by school": {"split": [{"field": "school"}], "options": {"by": "strand"}},
        "a question looked at": {
            "split": [{"characteristic": "Sex"}], "options": {"look": "Q7"}},
        "students of a school by question": {
            "show": "students", "who": {"all": [{"field": "school", "in": [_school(snapshot)]}]},
            "columns": [{"measure": {**TEST, "score": "raw",
                                     "part": {"kind": "question", "is": "each"}}}]},
        "fairness by sex": {"show": "bias", "split": [{"characteristic": "Sex"}]},
    }  # fmt: skip
    theirs = median_of(runs, pandas_way)
    rows = [_facilities(snapshot, frame, pandas_way, theirs, runs)]
    for name, change in lenses.items():
        question = {"show": "items", "what": [TEST], **change}
        ours = _ours(snapshot, question)
        mine = median_of(runs, ours)
        rows.append((f"inside a test, {name}", mine / theirs, f"÷ pandas ({1000 * mine:.0f} ms)"))
    return rows


def _school(snapshot: Snapshot) -> int:
    """The largest school's id."""
    roll = snapshot.rolls[-1]
    school = np.asarray(roll.school)
    return snapshot.schools[int(np.bincount(school[school >= 0]).argmax())].id


def _ours(snapshot: Snapshot, question: dict[str, Any]) -> Any:
    asked = read_question(question)

    def ask() -> str:
        return answer_on(bind(asked, snapshot)).model_dump_json(by_alias=True)

    return ask


def _facilities(
    snapshot: Snapshot, frame: pd.DataFrame, pandas_way: Callable[[], pd.DataFrame],
    theirs: float, runs: int,
) -> Row:  # fmt: skip
    """Facilities of every question in every school with their intervals, checked to agree."""
    marks = frame.drop(columns="school").to_numpy()
    worth = np.where(np.arange(QUESTIONS) < CHOICE, 1.0, 3.0)
    sheet, codes = mark_sheet(marks, worth), frame["school"].to_numpy().astype(np.int64)
    found = facility(sheet, codes, len(snapshot.schools))
    plain = pandas_way()
    there = plain.index.to_numpy()
    np.testing.assert_allclose(found.facility[there] * worth, plain.to_numpy())
    mine = median_of(runs, lambda: facility(sheet, codes, len(snapshot.schools)))
    schools = f"{len(there)} schools, with intervals"
    return "inside a test, facilities of 120 questions", mine / theirs, f"÷ pandas, {schools}"


def _flat(snapshot: Snapshot) -> pd.DataFrame:
    key = next(m for m in snapshot.measures if m.assessment.name == TEST["assessment"])
    (form,) = snapshot.marked_forms(key.sitting.id)
    roll = snapshot.rolls[-1]
    marks = np.where(np.asarray(form.marks) < 0, 0, np.asarray(form.marks)).astype(np.float64)
    frame = pd.DataFrame(marks, columns=list(form.questions))
    frame["school"] = np.asarray(roll.school)[np.asarray(form.at)]
    return frame[frame["school"] >= 0]


def _with_paper(bench: Bench) -> Snapshot:
    """The district with a long paper that its first students sat, brought in once."""
    snapshot = snapshot_of(bench.engine, bench.settings.snapshots)
    if any(m.assessment.name == TEST["assessment"] for m in snapshot.measures):
        return snapshot
    say(f"bringing in {STUDENTS:,} sheets of {QUESTIONS} questions")
    rng = np.random.default_rng(9)
    roll = snapshot.rolls[-1]
    at = np.flatnonzero(np.asarray(roll.school) >= 0)[:STUDENTS]
    ability = rng.normal(size=(len(at), 1))
    chance = 1 / (1 + np.exp(-(ability + np.linspace(1.5, -1.5, QUESTIONS))))
    maxima = np.where(np.arange(QUESTIONS) < CHOICE, 1, 3)
    marks = rng.binomial(maxima, chance)
    key = rng.integers(0, 4, QUESTIONS)
    letters = np.array(list(LETTERS))
    wrong = (key + rng.integers(1, 4, marks.shape)) % 4
    cells = np.where(
        np.arange(QUESTIONS) < CHOICE, letters[np.where(marks > 0, key, wrong)], marks.astype(str)
    )
    out = io.StringIO()
    write = csv.writer(out)
    write.writerow(["Student number", *(f"Q{n + 1}" for n in range(QUESTIONS))])
    write.writerow(["Maximum", *maxima])
    write.writerow(["Key", *(LETTERS[k] if n < CHOICE else "" for n, k in enumerate(key))])
    for number, row in zip(np.asarray(snapshot.numbers)[at], cells, strict=True):
        write.writerow([number, *row])
    said = IntakeSettings.model_validate(
        {"test": TEST["assessment"], "sitting": TEST["sitting"], "date": "2026-05-12"}
    )
    table = "Test,Question,Strand\n" + "".join(
        f"{TEST['assessment']},Q{n + 1},Strand {n // 12 + 1}\n" for n in range(QUESTIONS)
    )
    bring_in(bench.settings, bench.engine, "questions", "long.csv", table.encode(),
             IntakeSettings())  # fmt: skip
    bring_in(bench.settings, bench.engine, "results", "paper.csv", out.getvalue().encode(), said)
    return snapshot_of(bench.engine, bench.settings.snapshots)

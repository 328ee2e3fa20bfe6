"""Writing what a file says question by question: marks, which options were chosen, what was
written, and what each question is worth and about."""

from __future__ import annotations

from typing import Any

import numpy as np
import orjson
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.intake.cells.chosen import Chosen
from bridge_chart.intake.cells.marks import paper_of
from bridge_chart.intake.examine.results import ResultsPlan
from bridge_chart.intake.keep.identities import row_ids
from bridge_chart.intake.keep.keep_roster import records
from bridge_chart.store import tables as t
from bridge_chart.store.bulk import copy_in, copy_text_in
from bridge_chart.store.codes import STATUSES

SAT = STATUSES.index("sat")


def write_answered(
    connection: sa.Connection,
    plan: ResultsPlan,
    batch_id: int,
    ids: NDArray[np.int64],
    students: NDArray[np.int32],
    sittings: NDArray[np.int32],
    forms: NDArray[np.int32],
) -> None:
    """What each attempt has of marks, of options and of texts, and what the file says of each
    question."""
    grid = plan.grid
    assert grid is not None
    at = plan.rows["index"].to_numpy()
    marks = grid.marks[at]
    sat = plan.rows["status"].to_numpy() == SAT
    some = (marks >= 0).any(axis=1) & sat
    papers = np.zeros(len(at), np.int32)
    for sitting, form in np.unique(np.stack([sittings, forms], 1), axis=0).tolist():
        key = [{"sitting_id": sitting, "form_id": form, "questions": list(grid.questions)}]
        paper = row_ids(connection, t.paper, key)[0]
        papers[(sittings == sitting) & (forms == form)] = paper
    copy_in(
        connection,
        "mark_sheet",
        records(
            int(some.sum()),
            batch_id=(np.int32, batch_id),
            row=(np.int32, plan.rows["line"].to_numpy()[some]),
            attempt_id=(np.int64, ids[some]),
            student_id=(np.int32, students[some]),
            sitting_id=(np.int32, sittings[some]),
            paper_id=(np.int32, papers[some]),
            marks=((np.int16, (len(grid.questions),)), marks[some]),
        ),
    )
    told = {"batch_id": (np.int32, batch_id), "row": plan.rows["line"].to_numpy(),
            "student_id": students, "sitting_id": sittings}  # fmt: skip
    if grid.chosen is not None:
        _write_choices(connection, grid.chosen, at, sat, told, papers)
        _write_texts(connection, grid.chosen, at, told, forms)
    _write_told(connection, plan, batch_id)


def _write_choices(
    connection: sa.Connection,
    chosen: Chosen,
    at: NDArray[np.int64],
    sat: NDArray[np.bool_],
    told: dict[str, Any],
    papers: NDArray[np.int32],
) -> None:
    """Which option each chose, of those who sat."""
    if not chosen.options:
        return
    choices = chosen.choices[at]
    some = (choices >= 0).any(axis=1) & sat
    listed = row_ids(connection, t.option_list, [{"names": list(chosen.options)}])[0]
    copy_in(
        connection,
        "choice_sheet",
        records(
            int(some.sum()),
            batch_id=told["batch_id"],
            **{name: (np.int32, told[name][some]) for name in ("row", "student_id", "sitting_id")},
            paper_id=(np.int32, papers[some]),
            options_id=(np.int32, listed),
            choices=((np.int16, (choices.shape[1],)), choices[some]),
        ),
    )


def _write_texts(
    connection: sa.Connection,
    chosen: Chosen,
    at: NDArray[np.int64],
    told: dict[str, Any],
    forms: NDArray[np.int32],
) -> None:
    """What students wrote, a row for each text."""
    batch_id = int(told["batch_id"][1])
    for question, cells in chosen.written.items():
        texts = cells.gather(at).to_list()
        copy_text_in(
            connection, "written",
            ["batch_id", "row", "student_id", "sitting_id", "form_id", "question", "text"],
            (
                (batch_id, int(row), int(student), int(sitting), int(form), question, text)
                for row, student, sitting, form, text in zip(
                    told["row"], told["student_id"], told["sitting_id"], forms, texts, strict=True
                )
                if text
            ),
        )  # fmt: skip


def _write_told(connection: sa.Connection, plan: ResultsPlan, batch_id: int) -> None:
    """What the file says itself of its questions, as rows of the table of questions."""
    grid = plan.grid
    assert grid is not None
    keys = grid.chosen.keys if grid.chosen else {}
    papers = {name: paper for name in grid.questions if (paper := paper_of(name))}
    if not any((any(grid.maxima), grid.by_strand, any(grid.topics), keys, papers)):
        return
    maxima = grid.maxima
    written = plan.rows.select("sitting", "form").unique().sort("sitting", "form").rows()
    cells = [
        {"test": s.test, "subject": s.subject, "sitting": s.name, "form": form,
         "question": name, "maximum": maximum,
         **({"topic": topic} if topic else {}),
         **({"key": keys[name]} if name in keys else {}),
         **({"paper": papers[name]} if name in papers else {}),
         **({"strand": name, "whole": True} if grid.by_strand else {})}
        for place, form in written
        for s in [plan.sittings[place]]
        for name, maximum, topic in zip(grid.questions, maxima, grid.topics, strict=True)
    ]  # fmt: skip
    row = grid.told[0] if grid.told else 0
    write_table_rows(connection, batch_id, "questions", [row] * len(cells), cells)


def write_table_rows(
    connection: sa.Connection,
    batch_id: int,
    kind: str,
    lines: list[int],
    cells: list[dict[str, Any]],
) -> None:
    """Rows of a table of reference, one each with the file's own line."""
    rows = (
        (batch_id, line, kind, orjson.dumps(row).decode())
        for line, row in zip(lines, cells, strict=True)
    )
    copy_text_in(connection, "table_row", ["batch_id", "row", "kind", "cells"], rows)

"""Answers in rows made a sheet: a row per student and sitting, columns for each question."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import polars as pl

from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.terms.finding import Choice, ColumnInfo
from bridge_chart.terms.wording import count

ANSWERED = {"score:raw": ("question", ""), "option": ("option", " option"),
            "written": ("written", " explanation")}  # fmt: skip
"""What a row may say of its question → the role of the column that it becomes, and its name."""
WHO_AND_WHAT = ("number", "test", "subject", "sitting", "date", "form")
"""What tells one sheet of answers from another."""


def answers_as_sheet(
    sheet: Sheet, columns: list[ColumnInfo], found: Findings
) -> tuple[Sheet, list[ColumnInfo]]:
    """The file with a row per student and sitting, if each of its rows is about one question; any
    other stays as it is. Two rows for one question that differ are a stop."""
    item = next((c for c in columns if c.role == "item"), None)
    said = [c for c in columns if c.role in ANSWERED]
    if item is None or not said:
        return sheet, columns
    keys = [f"c{c.index}" for c in columns if c.role in WHO_AND_WHAT]
    frame = sheet.cells.with_row_index("place").filter(pl.col(f"c{item.index}") != "")
    frame = _one_row_each(frame, keys, item, said, found)
    first = frame.group_by(keys, maintain_order=True).agg(pl.col("place").first())
    place = first["place"].to_list()
    beside = [c for c in columns if c.role != "item" and c not in said]
    cells = sheet.cells[place].select(
        pl.col(f"c{c.index}").alias(f"c{n}") for n, c in enumerate(beside)
    )
    infos = [c.model_copy(update={"index": n}) for n, c in enumerate(beside)]
    headers = [c.header for c in beside]
    whose = frame.join(first.select(keys).with_row_index("row"), on=keys, how="left")
    for column in said:
        role, behind = ANSWERED[column.role]
        for name, held in _by_question(whose, item, column):
            at = np.full(first.height, "", object)
            at[held["row"].to_numpy()] = held[f"c{column.index}"].to_numpy()
            index = len(headers)
            cells = cells.with_columns(pl.Series(f"c{index}", at.tolist(), dtype=pl.String))
            headers.append(f"{name}{behind}")
            infos.append(column.model_copy(
                update={"index": index, "header": headers[-1], "role": role}
            ))  # fmt: skip
    made = replace(sheet, headers=tuple(headers), cells=cells, lines=sheet.lines[place])
    return made, infos


def _by_question(
    frame: pl.DataFrame, item: ColumnInfo, column: ColumnInfo
) -> list[tuple[str, pl.DataFrame]]:
    """Each question that the column says something of, in the order of the file."""
    filled = frame.filter(pl.col(f"c{column.index}") != "")
    parts = filled.partition_by(f"c{item.index}", maintain_order=True, as_dict=True)
    return [(str(key[0]), held) for key, held in parts.items()]


def _one_row_each(
    frame: pl.DataFrame, keys: list[str], item: ColumnInfo, said: list[ColumnInfo], found: Findings
) -> pl.DataFrame:
    """One row for each student and question; rows that are alike count once."""
    of, told = [*keys, f"c{item.index}"], [f"c{c.index}" for c in said]
    frame = frame.unique([*of, *told], keep="first", maintain_order=True)
    double = frame.filter(pl.struct(of).is_duplicated())
    if not double.height:
        return frame
    questions = double[f"c{item.index}"].unique(maintain_order=True).to_list()
    chosen = found.add(
        "two_answers", "stop", f"{count(double.height, 'row')} with two answers to one question",
        f"{some(questions)}: same student, same sitting, and not the same answer",
        double["place"].to_list(),
        [Choice(key="last", label="The later row counts"),
         Choice(key="first", label="The earlier row counts")],
    )  # fmt: skip
    keep: Literal["first", "last"] = "first" if chosen == "first" else "last"
    return frame.unique(of, keep=keep, maintain_order=True)

"""Tables of others made long: of a column per statistic, scale or subject, each cell is a row."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

import numpy as np
import polars as pl

from bridge_chart.intake.cells.values import numbers
from bridge_chart.intake.columns.column_names import WIDE
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.terms.finding import ColumnInfo

SHARES = ("share", "facility")
LONG = {"national": "statistic", "conversion": "onto", "credits": "credits"}
"""The column by which a table is long already: columns of its wide form then say nothing more."""


@dataclass(frozen=True)
class LongTable:
    """A table with one figure a row; `as_shares`: names of columns in percent, read as shares."""

    sheet: Sheet
    columns: list[ColumnInfo]
    as_shares: tuple[str, ...] = ()


def widened(kind: str, columns: list[ColumnInfo]) -> list[ColumnInfo]:
    """The columns of a table, those of its wide form named by what each is of: “percentile:10”."""
    if kind not in WIDE:
        return columns
    roles = [c.role for c in columns]
    if LONG.get(kind) in roles:
        return [_told_already(kind, c) if c.role in WIDE[kind] else c for c in columns]
    if kind == "expectation" and roles.count("expected_value") < 2:
        return columns
    named = [c for c in columns if c.role in WIDE[kind]]
    return [
        c.model_copy(update={"role": f"{c.role}:{_of(c.role, c.header)}"}) if c in named else c
        for c in columns
    ]


def _told_already(kind: str, column: ColumnInfo) -> ColumnInfo:
    if kind == "conversion":
        return column
    why = f"the column of the {LONG[kind]} says it"
    return column.model_copy(update={"role": "ignore", "why": why})


def _of(role: str, header: str) -> str:
    """What a column of a wide table is of.

    >>> _of("percentile", "P10"), _of("percentile", "Median"), _of("share", "% Level 4")
    ('10', '50', 'Level 4')
    >>> _of("expected_value", "Maths expected"), _of("becomes", "Scaled score")
    ('Maths', 'Scaled score')
    """
    if role == "percentile":
        told = {"median": "50", "lower quartile": "25", "upper quartile": "75"}
        found = re.search(r"\d{1,2}", header)
        return found[0] if found else told.get(header.strip().lower(), header)
    if role == "becomes":
        return header
    words = r"(?i)\b(share|percent(age)?|facility|expected|ambitious|grade|score|at|of|in)\b|%"
    return re.sub(r"\s+", " ", re.sub(words, " ", header)).strip(" :-") or header


def lengthen_table(kind: str, sheet: Sheet, columns: list[ColumnInfo]) -> LongTable:
    """The table with a row for every filled cell of its wide columns; one that has none stays."""
    wide = [c for c in columns if ":" in c.role and c.role.split(":")[0] in WIDE.get(kind, ())]
    if not wide:
        return LongTable(sheet, columns)
    kept = [c for c in columns if c.role != "ignore" and c not in wide]
    parts, lines, shares = [], [], []
    for column in wide:
        role, of = column.role.split(":", 1)
        cells = sheet.column(column.index)
        if role in SHARES and _in_percent(cells):
            shares.append(column.header)
            cells = (numbers(cells) / 100).round(8).cast(pl.String).fill_null(cells)
        filled = sheet.column(column.index) != ""
        made = _made(kind, role, of)
        frame = sheet.cells.select(pl.col(f"c{c.index}").alias(f"c{n}") for n, c in enumerate(kept))
        frame = frame.with_columns(
            cells.alias(f"c{len(kept)}"),
            *(pl.lit(text).alias(f"c{len(kept) + 1 + n}") for n, text in enumerate(made.values())),
        )
        parts.append(frame.filter(filled))
        lines.append(sheet.lines[filled.to_numpy()])
    value = {"national": "value", "credits": "credits"}.get(kind, wide[0].role.split(":")[0])
    told = [(c.header, c.role) for c in kept]
    told += [(name, name) for name in (value, *_made(kind, "", ""))]
    infos = [
        ColumnInfo(index=n, header=header, role=role, why="", confident=True, examples=[])
        for n, (header, role) in enumerate(told)
    ]
    long = replace(
        sheet, headers=tuple(header for header, _ in told), cells=pl.concat(parts),
        lines=np.concatenate(lines),
    )  # fmt: skip
    return LongTable(long, infos, tuple(shares))


def _in_percent(cells: pl.Series) -> bool:
    """Whether shares are written in percent: a sign says so, or one is above 1."""
    figures = numbers(cells).drop_nulls()
    return bool(cells.str.contains("%").any()) or bool((figures > 1).any())


def _made(kind: str, role: str, of: str) -> dict[str, str]:
    """What a wide column says of each of its cells."""
    if kind == "national":
        return {"statistic": role, "of": of if role in ("percentile", *SHARES) else ""}
    if kind == "credits":
        return {"estimated": role.removeprefix("credits_")}
    return {"onto": of} if kind == "conversion" else {"subject": of}

"""Wide sheets made long: a row per student, sitting and subject, whatever the file's columns."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.intake.said.settings import About
from bridge_chart.terms.finding import ColumnInfo

FIELDS = ("test", "subject", "sitting", "date", "form")
CLAIMED = ("predicted", "target")
HELD = ("score", "target", "predicted", "question", "option", "written", "strand")
BESIDE = ("form", "date")
"""What may stand once for each sitting, test or subject of a wide sheet."""


@dataclass(frozen=True)
class Long:
    """A sheet with one result a row. `columns`: those of `sheet`; `block`: per row, which block
    of the file's columns it is from; `origin`: (blocks, columns) the file's column, −1 = none;
    `blank`: results that the file left blank."""

    sheet: Sheet
    columns: list[ColumnInfo]
    block: NDArray[np.int32]
    origin: NDArray[np.int32]
    blank: int


def holds_result(column: ColumnInfo) -> bool:
    return column.role.split(":")[0] in HELD


def lengthen(sheet: Sheet, columns: list[ColumnInfo], blanks: bool = False) -> Long:
    """The sheet with a row for every filled block (`blanks`: for every block); a file that is
    long already stays as it is."""
    blocks = _blocks(columns)
    beside = [c for c in columns if c.role in BESIDE and c.about]
    if len(blocks) == 1 and blocks[0][0] == About() and not beside:
        own = np.arange(len(columns), dtype=np.int32)[None, :]
        return Long(sheet, columns, np.zeros(sheet.cells.height, np.int32), own, 0)
    said = {c.role for c in beside}
    told = [f for f in FIELDS if f in said or any(getattr(about, f) for about, _ in blocks)]
    shared = [c for c in columns if not holds_result(c) and c.role != "ignore" and c not in beside]
    kept = [c for c in shared if c.role not in told]
    roles = list(dict.fromkeys(c.role for _, held in blocks for c in held))
    parts: list[pl.DataFrame] = []
    lines: list[NDArray[np.int64]] = []
    block: list[NDArray[np.int32]] = []
    origin: list[list[int]] = []
    blank = 0
    for at, (about, held) in enumerate(blocks):
        by_role = {c.role: c for c in held}
        given = pl.any_horizontal([pl.col(f"c{c.index}") != "" for c in held])
        rows = sheet.cells.select(given).to_series()
        scored = [c for c in held if c.role.startswith("score:")] or held
        filled = pl.any_horizontal([pl.col(f"c{c.index}") != "" for c in scored])
        blank += int((~sheet.cells.select(filled).to_series()).sum())
        if blanks:
            rows = rows | True
        picked = [pl.col(f"c{c.index}") for c in kept]
        picked += [_field(about, field, shared, beside) for field in told]
        picked += [pl.col(f"c{by_role[r].index}") if r in by_role else pl.lit("") for r in roles]
        named = [column.alias(f"c{n}") for n, column in enumerate(picked)]
        parts.append(sheet.cells.filter(rows).select(named))
        lines.append(sheet.lines[rows.to_numpy()])
        block.append(np.full(len(lines[-1]), at, np.int32))
        origin.append(
            [c.index for c in kept] + [-1] * len(told)
            + [by_role[r].index if r in by_role else -1 for r in roles]
        )  # fmt: skip
    cells = pl.concat(parts)
    headers = [c.header for c in kept] + told + roles
    infos = [_info(c, n) for n, c in enumerate([*kept, *_made(told), *_firsts(blocks)])]
    long = replace(sheet, headers=tuple(headers), cells=cells, lines=np.concatenate(lines))
    return Long(long, infos, np.concatenate(block), np.array(origin, np.int32), blank)


def one_result_a_row(columns: list[ColumnInfo]) -> bool:
    """Whether all results are of one test, subject and sitting, whichever columns name these."""
    return len(_blocks(columns)) == 1


def _blocks(columns: list[ColumnInfo]) -> list[tuple[About, list[ColumnInfo]]]:
    """Columns of results by what they are about."""
    found: dict[str, tuple[About, list[ColumnInfo]]] = {}
    for column in columns:
        if holds_result(column):
            about = About.model_validate(column.about)
            found.setdefault(about.model_dump_json(), (about, []))[1].append(column)
    return _with_their_results(list(found.values()))


def _with_their_results(
    blocks: list[tuple[About, list[ColumnInfo]]],
) -> list[tuple[About, list[ColumnInfo]]]:
    """Claims that name no sitting go with the one sitting in which the file has results of their
    test and subject; where it has several, or none, they stay by themselves."""
    out: list[tuple[About, list[ColumnInfo]]] = []
    claims = [(about, held) for about, held in blocks
              if all(c.role.startswith(CLAIMED) for c in held) and not about.sitting]  # fmt: skip
    for about, held in blocks:
        if (about, held) in claims:
            continue
        out.append((about, list(held)))
    for about, held in claims:
        same = [at for at, (other, _) in enumerate(out)
                if (other.test, other.subject) == (about.test, about.subject)]  # fmt: skip
        if len(same) == 1:
            out[same[0]][1].extend(held)
        else:
            out.append((about, held))
    return out


def _field(about: About, field: str, shared: list[ColumnInfo], beside: list[ColumnInfo]) -> pl.Expr:
    """What a block says itself, else the column that is about just it, else the file's own."""
    value = getattr(about, field)
    if value:
        return pl.lit(str(value))
    nearest = [c for c in beside if c.role == field and _is_of(c, about)]
    nearest.sort(key=lambda c: -len(c.about))
    own = next((c for c in [*nearest, *shared] if c.role == field), None)
    return pl.col(f"c{own.index}") if own else pl.lit("")


def _is_of(column: ColumnInfo, about: About) -> bool:
    """Whether everything that a column is about holds of a block."""
    return all(
        str(getattr(about, key)).casefold() == str(value).casefold()
        for key, value in column.about.items()
    )


def _firsts(blocks: list[tuple[About, list[ColumnInfo]]]) -> list[ColumnInfo]:
    """The first column of each role."""
    found: dict[str, ColumnInfo] = {}
    for _, held in blocks:
        for column in held:
            found.setdefault(column.role, column)
    return list(found.values())


def _made(said: list[str]) -> list[ColumnInfo]:
    return [
        ColumnInfo(
            index=0, header=f, role=f, why="in the column names", confident=True, examples=[]
        )
        for f in said
    ]


def _info(column: ColumnInfo, index: int) -> ColumnInfo:
    return column.model_copy(update={"index": index})

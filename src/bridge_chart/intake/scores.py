"""Reading the score columns of a results file: figures, levels, and codes for what is not there."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl

from bridge_chart.intake.columns import position_of
from bridge_chart.intake.findings import SET_ASIDE, Findings, some
from bridge_chart.intake.read import Sheet
from bridge_chart.intake.values import CODE_MEANS, STATUS_WORDS, numbers
from bridge_chart.store.codes import STATUSES
from bridge_chart.terms.finding import Choice, ColumnInfo
from bridge_chart.terms.wording import count

NUMERIC = ("raw", "percent", "scaled")
SAT = STATUSES.index("sat")
NOT_SAT = STATUSES.index("not_sat")


@dataclass(frozen=True)
class Scores:
    """`values`: score kind → figures (null = none; a level's position from 1); `status`: index
    into STATUSES; `levels`: score kind → level names from lowest; `columns`: kind → column."""

    values: dict[str, pl.Series]
    status: pl.Series
    levels: dict[str, list[str]]
    columns: dict[str, int]


def read_scores(sheet: Sheet, columns: list[ColumnInfo], found: Findings) -> Scores:
    """Read every score column; cells that are neither figure nor known code are a stop."""
    at = {c.role.split(":")[1]: c.index for c in columns if c.role.startswith("score:")}
    coded = pl.Series([None], dtype=pl.String).new_from_index(0, sheet.cells.height)
    status_at = position_of(columns, "status")
    if status_at is not None:
        coded = _coded(sheet.column(status_at))
    values: dict[str, pl.Series] = {}
    blank = pl.Series([True]).new_from_index(0, sheet.cells.height)
    cells: dict[str, list[str]] = {}
    for kind in [k for k in NUMERIC if k in at]:
        column = sheet.column(at[kind])
        values[kind] = numbers(column)
        text = values[kind].is_null() & (column != "")
        blank &= column == ""
        if text.any():
            words = _coded(column)
            coded = coded.zip_with(words.is_null() | ~text, words)
            unknown = (text & words.is_null()).arg_true().to_list()
            coded = _unknown_codes(kind, column, unknown, coded, found)
            known = text & words.is_not_null()
            for word in column.filter(known).unique(maintain_order=True).to_list():
                cells.setdefault(CODE_MEANS[word.lower()], []).append(word)
            _say_codes(column, words, known, cells, found)
    levels: dict[str, list[str]] = {}
    if "level" in at:
        column = sheet.column(at["level"])
        blank &= column == ""
        names = _level_order(column, next(iter(values.values()), None))
        levels["level"] = names
        position = {name: place + 1.0 for place, name in enumerate(names)}
        values["level"] = column.replace_strict(position, default=None, return_dtype=pl.Float64)
    empty = blank & coded.is_null()
    if empty.any():
        found.add(
            "blank", "ask", f"{count(int(empty.sum()), 'row')} without a score",
            "Read as not sat; none counts as zero", empty.arg_true().to_list(),
            [Choice(key="not_sat", label="Read so")], "not_sat",
        )  # fmt: skip
    coded = coded.set(empty, "not_sat")
    status = coded.fill_null("sat").replace_strict(
        {name: place for place, name in enumerate(STATUSES)}, return_dtype=pl.Int16
    )
    sat = status == SAT
    values = {kind: column.set(~sat, None) for kind, column in values.items()}
    return Scores(values, status, levels, at)


def _coded(column: pl.Series) -> pl.Series:
    """The status that each cell's code means; null where it is no known code."""
    return column.str.to_lowercase().replace_strict(
        CODE_MEANS, default=None, return_dtype=pl.String
    )


def _say_codes(
    column: pl.Series,
    words: pl.Series,
    known: pl.Series,
    cells: dict[str, list[str]],
    found: Findings,
) -> None:
    counts = [
        f"{STATUS_WORDS[status]} ({int(((words == status) & known).sum())})" for status in cells
    ]
    if not counts:
        return
    held = some([word for words_ in cells.values() for word in words_], 5)
    found.add(
        "codes", "ask", f"The score column holds {held}",
        f"Read as {', '.join(counts)}; none counts as zero", known.arg_true().to_list(),
        [Choice(key="read", label="Read so")], "read",
    )  # fmt: skip


def _unknown_codes(
    kind: str, column: pl.Series, rows: list[int], coded: pl.Series, found: Findings
) -> pl.Series:
    """Neither figure nor known code: a person says what it means, or the rows are set aside."""
    if not rows:
        return coded
    choices = [
        Choice(key=status, label=f"They were {words}")
        for status, words in STATUS_WORDS.items()
        if status != "sat"
    ]
    chosen = found.add(
        f"unknown_code_{kind}", "stop", f"{count(len(rows), 'score')} not a figure",
        f"{some([column[row] for row in rows])}: neither a score nor a code that is known",
        rows, [*choices, SET_ASIDE],
    )  # fmt: skip
    if chosen is None or chosen == "set_aside":
        found.put_aside(rows, "score is no figure")
        return coded
    return coded.scatter(rows, [chosen] * len(rows))


def _level_order(column: pl.Series, figures: pl.Series | None) -> list[str]:
    """Level names from lowest to highest: by their mean score where the file has scores."""
    frame = pl.DataFrame({"name": column, "figure": figures}).filter(pl.col("name") != "")
    known = frame.filter(~pl.col("name").str.to_lowercase().is_in(list(CODE_MEANS)))
    if figures is None:
        return sorted(known["name"].unique().to_list())
    means = known.group_by("name").agg(pl.col("figure").mean()).sort("figure", "name")
    return list(means["name"].to_list())

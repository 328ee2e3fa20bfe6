"""Tables that go from a starting point (expected outcomes) or a score (conversion) to another
figure: what is a figure is kept as one, and what should be one stops where it is none."""

from __future__ import annotations

import polars as pl

from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.intake.cells.values import numbers
from bridge_chart.store.codes import SCORES, STEPPED
from bridge_chart.terms.wording import count

FIGURES = {
    "expectation": {"start": "start_score", "expected_value": "score", "ambitious_value": "score"},
    "conversion": {"value": "score"},
    "practice": {"value": "score"},
}
"""Columns of figures or steps, with the column that says which; blank: it is as it looks."""


def plain_figures(kind: str, role: str, cells: pl.Series, found: Findings) -> pl.Series:
    """Cells of such a column with every figure written as a plain number, steps untouched."""
    if role not in FIGURES.get(kind, {}):
        return cells
    read = numbers(cells, found.number_style(role, cells))
    plain = [repr(x).removesuffix(".0") if x is not None else None for x in read.to_list()]
    said = pl.Series(plain, dtype=pl.String)
    return said.fill_null(cells)


def check_starts(kind: str, frame: pl.DataFrame, found: Findings) -> None:
    """A figure where the kind of score is one; a start score that is known; ambition above what is
    expected."""
    for role, says in FIGURES[kind].items():
        if role not in frame.columns or says not in frame.columns:
            continue
        stepped = pl.col(says).is_in([*STEPPED, ""])
        number = pl.col(role).cast(pl.Float64, strict=False).is_not_null()
        wrong = frame.filter(~stepped & ~number & (pl.col(role) != ""))
        found.must_set_aside(
            f"{role}_no_figure",
            f"{count(wrong.height, 'row')} with a {_words(role)} that is no figure",
            f"{some(wrong[role].to_list())}; the table says that it is one",
            wrong["index"].to_list(),
        )
    if "start_score" in frame.columns:
        odd = frame.filter(~pl.col("start_score").is_in([*SCORES, ""]))
        found.must_set_aside(
            "unknown_start_score",
            f"{count(odd.height, 'row')} with an unknown kind of starting score",
            f"Known are {', '.join(SCORES)}; there is {some(odd['start_score'].to_list())}",
            odd["index"].to_list(),
        )
    if "ambitious_value" in frame.columns:
        expected, ambitious = (
            pl.col(role).cast(pl.Float64, strict=False)
            for role in ("expected_value", "ambitious_value")
        )
        low = frame.filter(ambitious < expected)
        found.must_set_aside(
            "ambitious_below",
            f"{count(low.height, 'row')} whose ambitious outcome is below the expected one",
            "It is the higher goal", low["index"].to_list(),
        )  # fmt: skip


def _words(role: str) -> str:
    return role.removesuffix("_value")

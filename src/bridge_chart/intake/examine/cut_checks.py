"""Checks of a scale's cut scores: each set must rise with its steps."""

from __future__ import annotations

from itertools import pairwise

import polars as pl

from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.store.reference_tables import score_said
from bridge_chart.terms.wording import count

SET = ("test", "subject", "score", "year_level", "form", "school_year", "in")
"""What one set of cut scores is for."""


def check_cuts(frame: pl.DataFrame, found: Findings) -> None:
    """Cuts must rise from step to step, an upper half must begin inside its step, one step at most
    is expected at an age, and a school year is written like 2025-26; else the rows stop."""
    if "school_year" in frame.columns:
        written = pl.col("school_year").str.contains(r"^\d{4}-\d{2}$")
        wrong = frame.filter((pl.col("school_year") != "") & ~written)
        found.must_set_aside(
            "bad_school_year",
            f"{count(wrong.height, 'row')} with a school year that cannot be read",
            f"{some(wrong['school_year'].to_list())}; one is written like 2025-26",
            wrong["index"].to_list(),
        )
    if "in" in frame.columns:
        odd = frame.filter(pl.Series([score_said(text) is None for text in frame["in"]]))
        found.must_set_aside(
            "bad_in", f"{count(odd.height, 'row')} with cut scores in what is no figure",
            f"{some(odd['in'].to_list())}; they are in raw marks, percent or scaled scores",
            odd["index"].to_list(),
        )  # fmt: skip
    falling: list[int] = []
    outside: list[int] = []
    several: list[int] = []
    cutless: list[int] = []
    keys = [c for c in SET if c in frame.columns]
    for _, rows in frame.group_by(keys, maintain_order=True):
        if "from" in rows.columns:
            cuts = rows.filter(pl.col("from").is_not_null())
            falling += _falling(cuts)
            outside += _outside(cuts)
        if "expected" in rows.columns and int(rows["expected"].sum()) > 1:
            several += rows.filter("expected")["index"].to_list()
        cutless += _cutless(rows)
    for key, at, what, detail in (
        ("cuts_fall", falling, "whose cut score does not rise", "From the lowest step upwards"),
        ("upper_outside", outside, "whose upper half lies outside its step",
         "It must begin above the step's own cut score and below the next one's"),
        ("expected_twice", several, "that name a step as the one expected at the same age",
         "One step is"),
        ("no_cut", cutless, "with an upper half or an expectation, and no cut score",
         "Give the step's lowest score too"),
    ):  # fmt: skip
        found.must_set_aside(key, f"{count(len(at), 'row')} {what}", detail, at)


def _cutless(rows: pl.DataFrame) -> list[int]:
    """Rows that say more of a step's scores than where it begins, and not that."""
    more = [pl.col("upper").is_not_null()] if "upper" in rows.columns else []
    more += [pl.col("expected")] if "expected" in rows.columns else []
    begins = pl.col("from").is_not_null() if "from" in rows.columns else pl.lit(False)
    if not more:
        return []
    wanted: list[int] = rows.filter(pl.any_horizontal(more) & ~begins)["index"].to_list()
    return wanted


def _falling(cuts: pl.DataFrame) -> list[int]:
    lowest, index = cuts["from"].to_list(), cuts["index"].to_list()
    return [index[n + 1] for n, (a, b) in enumerate(pairwise(lowest)) if b <= a]


def _outside(cuts: pl.DataFrame) -> list[int]:
    if "upper" not in cuts.columns:
        return []
    lowest, upper = cuts["from"].to_list(), cuts["upper"].to_list()
    above = [*lowest[1:], float("inf")]
    index = cuts["index"].to_list()
    return [
        index[n]
        for n, half in enumerate(upper)
        if half is not None and not lowest[n] < half < above[n]
    ]

"""The classes of a roster: a student may be in a form and in sets, of one file or of several."""

from __future__ import annotations

import polars as pl

from bridge_chart.store.codes import CLASS_KINDS

TAUGHT = (*CLASS_KINDS, "teacher", "course")
LED = ("class", "set", "form")
"""Whose teacher and course a row's are: of the first of these that it names."""
PLACED = ("index", "line", "number", "school")


def memberships_of(frame: pl.DataFrame) -> pl.DataFrame:
    """A row per student and class: index, line, number, school, kind, class, teacher, course."""
    parts = []
    for kind in CLASS_KINDS:
        before = [pl.col(other) == "" for other in LED[: LED.index(kind)]]
        leads = pl.all_horizontal(before) if before else pl.lit(True)
        parts.append(
            frame.filter(pl.col(kind) != "").select(
                *PLACED,
                pl.lit(kind).alias("kind"),
                pl.col(kind).alias("class"),
                *(
                    pl.when(leads).then(pl.col(name)).otherwise(pl.lit("")).alias(name)
                    for name in ("teacher", "course")
                ),
            )
        )
    return pl.concat(parts).sort("index", maintain_order=True)

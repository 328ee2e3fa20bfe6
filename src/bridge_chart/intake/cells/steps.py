"""Levels and grades as a file writes them, brought to the places of their scale."""

from __future__ import annotations

import re

import polars as pl

from bridge_chart.intake.cells.findings import SET_ASIDE, Findings, some
from bridge_chart.intake.cells.values import CODE_MEANS
from bridge_chart.store.reference_tables import Scale, tidy
from bridge_chart.terms.finding import Choice
from bridge_chart.terms.wording import count


def is_code(column: pl.Series, scale: Scale | None, kind: str) -> pl.Series:
    """Cells that say why there is no result. A step of the scale is no code, and without a scale
    a single letter is a grade: “A” is then the grade, not “absent”."""
    words = [w for w in CODE_MEANS if scale is None or scale.place(w) is None]
    if scale is None and kind == "grade":
        words = [w for w in words if len(w) > 1 or w in ("x", "-", "–", "—")]
    return column.str.to_lowercase().is_in(words)


def read_steps(
    kind: str,
    columns: list[pl.Series],
    scale: Scale | None,
    figures: pl.Series | None,
    found: Findings,
) -> tuple[list[str], list[pl.Series]]:
    """Names from lowest to highest, and each column's places from 1 (null = none).

    With a declared scale its order holds, its synonyms are taken, and a step that it does not
    have stops. Without one the order is that of the mean scores, else of the names.
    """
    if scale is not None:
        names = [step.name for step in scale.steps]
        place = {
            tidy(name): at + 1.0
            for at, step in enumerate(scale.steps)
            for name in (*step.synonyms, step.name)
            if name
        }
        tidied = [c.str.replace_all(r"\s+", "").str.to_lowercase() for c in columns]
        placed = [c.replace_strict(place, default=None, return_dtype=pl.Float64) for c in tidied]
        unknown = [
            ((column != "") & ~is_code(column, scale, kind) & values.is_null())
            for column, values in zip(columns, placed, strict=True)
        ]
        rows = sorted({row for hits in unknown for row in hits.arg_true().to_list()})
        if rows:
            seen = [c.filter(hits).to_list() for c, hits in zip(columns, unknown, strict=True)]
            found.add(
                f"unknown_{kind}", "stop", f"{count(len(rows), 'row')} with an unknown {kind}",
                f"{some([cell for cells in seen for cell in cells])}; "
                f"the scale has {', '.join(names)}",
                rows, [SET_ASIDE],
            )  # fmt: skip
            found.put_aside(rows, f"unknown {kind}")
        return names, placed
    names = _ordered(kind, columns, figures)
    if kind == "grade":
        found.add(
            "grade_order", "ask", "The order of the grades is a guess",
            f"From lowest: {', '.join(names)}. Bring in a scale to say it", [],
            [Choice(key="read", label="Read so")], "read", n=len(names),
        )  # fmt: skip
    place = {name: at + 1.0 for at, name in enumerate(names)}
    return names, [c.replace_strict(place, default=None, return_dtype=pl.Float64) for c in columns]


LETTERS = r"^([A-Ga-g]|[Uu])[*+\-−]*$"
"""Grades whose order is in their letters, whatever the scores beside them."""


def _ordered(kind: str, columns: list[pl.Series], figures: pl.Series | None) -> list[str]:
    """Step names from lowest to highest: by mean score where there are scores; else numbers by
    size, and letters with A highest and A* above it."""
    both = pl.concat(columns)
    known = both.filter((both != "") & ~is_code(both, None, kind))
    letters = kind == "grade" and bool(known.str.contains(LETTERS).all())
    if figures is not None and len(columns) == 1 and not letters:
        frame = pl.DataFrame({"name": columns[0], "figure": figures})
        frame = frame.filter(frame["name"].is_in(known.unique().implode()))
        means = frame.group_by("name").agg(pl.col("figure").mean()).sort("figure", "name")
        return list(means["name"].to_list())
    names = known.unique().to_list()
    if names and all(re.fullmatch(FINE, name) for name in names):
        return sorted(names, key=_fine)
    if kind == "grade" and not all(name.isdigit() for name in names):
        return sorted(names, key=lambda n: (n.rstrip("*+-"), -_sign(n)), reverse=True)
    return sorted(names, key=lambda n: (len(n), n) if n.isdigit() else (0, n))


FINE = r"\d{1,2}[+=\-−]?"
"""Numbered grades in fine steps: 4−, 4 or 4=, 4+."""


def _fine(name: str) -> tuple[int, int, str]:
    bare = name.rstrip("+=-−")
    return int(bare), {"+": 1, "-": -1, "−": -1}.get(name[len(bare) :], 0), name


def _sign(name: str) -> float:
    return name.count("*") * 2 + name.count("+") - name.count("-")

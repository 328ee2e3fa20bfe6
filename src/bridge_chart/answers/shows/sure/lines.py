"""How sure as lines: a row's figure by every model and year."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.sure.body import SureBody, SureFigure

HEADS = ("label", "kind", "by", "span", "low", "high", "n", "verdict", "because", "flips")


def sure_lines(body: SureBody) -> Lines:
    """A line for each row and model, then for each row and year."""
    lines: list[list[Any]] = []
    for row in body.rows:
        models = [("model", m.label, f) for m, f in zip(body.models, row.figures, strict=True)]
        years = [("cohort", y, f) for y, f in zip(body.years, row.years, strict=True)]
        lines += [
            [row.label, kind, by, *_cells(figure), row.flips]
            for kind, by, figure in [*models, *years]
            if figure is not None
        ]
    return list(HEADS), lines


def _cells(one: SureFigure) -> list[Any]:
    return [one.span, one.low, one.high, one.n, one.verdict, one.because]

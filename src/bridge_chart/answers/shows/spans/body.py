"""The rows of a comparison: drawn as spans, or listed as a table."""

from __future__ import annotations

from typing import Literal

from bridge_chart.terms.answer import Body, Row


class RowsBody(Body):
    """Spans and Table: the same rows, drawn or listed. `within`: what the rows of a group are,
    where there are two dimensions (the second split, or the measure). `reference`: pinned rows."""

    show: Literal["spans", "table"]
    dimension: str
    within: str | None = None
    rows: list[Row]
    reference: list[Row]

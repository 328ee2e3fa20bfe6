"""An Answer as text for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.terms.answer import Answer, RowsBody, StripBody, StudentsBody

SYMBOLS = {
    "ahead": "▲", "behind": "▼", "alike": "●", "unclear": "○", "few": "◇", "none": " ", "": " ",
}  # fmt: skip


def to_text(answer: Answer) -> str:
    """Sentence, coverage, table, readings, method."""
    lines = [answer.sentence, ""]
    for covered in answer.coverage:
        missing = "".join(f" · {item.n:,} {item.label}" for item in covered.missing)
        lines.append(f"{covered.counted:,} of {covered.population:,} counted{missing}")
    lines += ["", *_table(answer)]
    if answer.readings:
        lines += ["", "What it says"]
        lines += [f"  {SYMBOLS.get(r.kind, '·')} {r.text}" for r in answer.readings]
    lines += [f"  ! {warning.text}" for warning in answer.warnings]
    lines += ["", "How this is worked out", *[f"  {line}" for line in answer.method.says]]
    lines.append(f"  Version {answer.resolved.version}, {answer.engine}.")
    return "\n".join(lines) + "\n"


def aligned(rows: list[list[str]]) -> list[str]:
    """Columns padded to one width; all but the first to the right.

    >>> aligned([["a", "n"], ["bcd", "12"]])
    ['a     n', 'bcd  12']
    """
    widths = [max(len(row[at]) for row in rows) for at in range(len(rows[0]))]
    out = []
    for row in rows:
        cells = [row[0].ljust(widths[0])]
        cells += [cell.rjust(width) for cell, width in zip(row[1:], widths[1:], strict=True)]
        out.append("  ".join(cells).rstrip())
    return out


def _figure(value: Any, sign: bool = False) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:+.1f}".replace("-", "−") if sign else f"{value:.1f}".replace("-", "−")
    return str(value)


def _table(answer: Answer) -> list[str]:
    body = answer.body
    if isinstance(body, StudentsBody):
        heads = [[column.label or " " for column in body.columns]]
        cells = [
            [_figure(v) for v in line]
            for line in zip(*(c.values for c in body.columns), strict=True)
        ]
        return aligned(heads + cells)
    if isinstance(body, StripBody):
        heads = [["split", "kind", "groups", "size", "n", "missing"]]
        return aligned(
            heads
            + [
                [e.label, e.kind, str(e.groups), _figure(e.size), str(e.n), str(e.missing)]
                for e in body.entries
            ]
        )
    assert isinstance(body, RowsBody)
    heads = [[body.dimension, "n", "missing", "mean", "sd", "expected", "span", "95% interval", ""]]
    rows = [
        [
            row.label, str(row.n), str(row.missing), _figure(row.mean), _figure(row.sd),
            _figure(row.yardstick), _figure(row.span, sign=True),
            "" if row.low is None else f"{_figure(row.low)} to {_figure(row.high)}",
            SYMBOLS[row.verdict],
        ]
        for row in [*answer.reference, *body.rows]
    ]  # fmt: skip
    return aligned(heads + rows)

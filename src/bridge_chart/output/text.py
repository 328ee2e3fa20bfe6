"""An Answer as text for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.output.lines import lines_of
from bridge_chart.terms.answer import (
    Answer,
    LevelsBody,
    LevelsRow,
    RowsBody,
    SpreadBody,
    StudentsBody,
)

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
    if isinstance(body, SpreadBody):
        return _spread(body)
    if isinstance(body, LevelsBody):
        return _levels(body, answer.reference_levels)
    if not isinstance(body, RowsBody):
        names, lines = lines_of(answer)
        return aligned([[str(name) for name in names], *[[_figure(c) for c in x] for x in lines]])
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


def _levels(body: LevelsBody, reference: list[LevelsRow]) -> list[str]:
    """Counts in each step, with the share that passed; the pass line is a bar."""
    steps = [("| " if n == body.pass_at else "") + s.name for n, s in enumerate(body.steps)]
    heads = [body.dimension, "n", "missing", *steps, "passed", "95% interval"]
    lines = [heads]
    for row in [*reference, *body.rows]:
        cells = [str(n) for n in row.counts] or [
            "" if x is None else f"{100 * x:.0f}%" for x in row.share
        ]
        between = ""
        if row.pass_low is not None and row.pass_high is not None:
            between = f"{100 * row.pass_low:.0f}% to {100 * row.pass_high:.0f}%"
        share = "" if row.pass_share is None else f"{100 * row.pass_share:.0f}%"
        lines.append([row.label, str(row.n), str(row.missing),
                      *(cells or [""] * len(steps)), share, between])  # fmt: skip
    return aligned(lines)


def _spread(body: SpreadBody) -> list[str]:
    """Each group's box; the whole curve is in the CSV and JSON."""
    names = ("minimum", "p10", "q1", "median", "q3", "p90", "maximum", "mean", "sd")
    heads = [body.dimension, "n", "missing", *names]
    return aligned([heads, *[
        [c.label, str(c.n), str(c.missing), *[_figure(getattr(c, name)) for name in names]]
        for c in body.curves
    ]])  # fmt: skip

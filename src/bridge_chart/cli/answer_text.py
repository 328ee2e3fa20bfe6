"""An Answer as text for a terminal."""

from __future__ import annotations

from collections.abc import Sequence

from tabulate import tabulate

from bridge_chart.answers.asking.answer import Answer, cells_of, lines_of
from bridge_chart.answers.shows.lines import SYMBOLS, figure
from bridge_chart.terms.wording import amount


def to_text(answer: Answer) -> str:
    """Sentence, coverage, table, readings, method."""
    lines = [answer.sentence, ""]
    for covered in answer.coverage:
        missing = "".join(f" · {amount(item.n)} {item.label}" for item in covered.missing)
        lines.append(f"{amount(covered.counted)} of {amount(covered.population)} counted{missing}")
    lines += ["", aligned(_cells(answer))]
    if answer.readings:
        lines += ["", "What it says"]
        lines += [f"  {SYMBOLS.get(r.kind, '·')} {r.text}" for r in answer.readings]
    lines += [f"  ! {warning.text}" for warning in answer.warnings]
    lines += ["", "How this is worked out", *[f"  {line}" for line in answer.method.says]]
    lines.append(f"  Version {answer.resolved.version}, {answer.engine}.")
    return "\n".join(lines) + "\n"


def aligned(rows: Sequence[Sequence[str]]) -> str:
    """Columns padded to one width; all but the first to the right.

    >>> print(aligned([["a", "n"], ["bcd", "12"]]))
    a     n
    bcd  12
    """
    sides = ["left", *["right"] * (len(rows[0]) - 1)]
    text = tabulate(rows, tablefmt="plain", colalign=sides, disable_numparse=True)
    return "\n".join(line.rstrip() for line in text.split("\n"))


def _cells(answer: Answer) -> list[list[str]]:
    made = cells_of(answer)
    if made is not None:
        return made
    heads, lines = lines_of(answer)
    return [[str(head) for head in heads], *[[figure(cell) for cell in line] for line in lines]]

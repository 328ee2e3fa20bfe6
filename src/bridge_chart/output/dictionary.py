"""What the columns of a CSV file are, as the W3C's metadata for CSV on the Web says it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

SAYS = {
    "key": "The row's key: the kind of group and its id",
    "label": "The row's name",
    "measure": "Its place among the answer's measures",
    "n": "Students counted",
    "missing": "Students who are not counted",
    "mean": "Mean of those counted, in the measure's own unit",
    "sd": "Standard deviation of those counted",
    "q1": "Lower quartile", "median": "Median", "q3": "Upper quartile",
    "value": "What is compared, before the yardstick",
    "yardstick": "What it is held against",
    "span_raw": "Value minus yardstick",
    "span": "Value minus yardstick as drawn: shrunken where a multilevel model says so",
    "low": "Lower end of the interval (95 %)", "high": "Upper end of the interval (95 %)",
    "se": "Standard error of the span", "df": "Degrees of freedom of the interval",
    "p": "Two-sided p of the span against none",
    "effect": "The span in standard deviations within year levels",
    "verdict": "ahead, behind, alike, unclear, few, or none where nothing is judged",
    "because": "Why there is no verdict, or why it is unclear",
    "pinned": "Whether it is a row of reference",
    "Student": "The student's name", "Number": "The student's number, leading zeros and all",
}  # fmt: skip
"""What the columns mean that most answers have."""
PARTS = {
    "level": "The level or grade of the same sitting",
    "away": "How far the result is from what it is held against",
    "sign": "ahead or behind: beyond one error of prediction; else none",
    "why blank": "Why there is no figure",
}
DAY = re.compile(r"\d{4}-\d{2}-\d{2}$")


def dictionary_of(
    url: str, title: str, heads: Sequence[Any], lines: Sequence[Sequence[Any]]
) -> dict[str, Any]:
    """The metadata of one CSV file. url: its name beside the metadata; a column's type is that of
    all its cells, blanks aside.

    >>> told = dictionary_of("a.csv", "How?", ["n", "day"], [[3, "2026-03-02"], [4, None]])
    >>> [(c["name"], c["datatype"]) for c in told["tableSchema"]["columns"]]
    [('n', 'integer'), ('day', 'date')]
    """
    taken: set[str] = set()
    columns = []
    for at, head in enumerate(map(str, heads)):
        cells = [line[at] for line in lines if line[at] not in (None, "")]
        told = SAYS.get(head) or PARTS.get(head.rsplit(": ", 1)[-1]) or head
        columns.append({
            "name": _name(head, taken), "titles": head, "datatype": _type(cells),
            "dc:description": told,
        })  # fmt: skip
    return {
        "@context": "http://www.w3.org/ns/csvw", "url": url, "dc:title": title,
        "dialect": {"header": True, "encoding": "utf-8"}, "tableSchema": {"columns": columns},
    }  # fmt: skip


def _name(head: str, taken: set[str]) -> str:
    plain = re.sub(r"\W+", "_", head).strip("_").lower() or "column"
    name, n = plain, 1
    while name in taken:
        n += 1
        name = f"{plain}_{n}"
    taken.add(name)
    return name


def _type(cells: Sequence[Any]) -> str:
    if not cells:
        return "string"
    if all(isinstance(cell, bool) for cell in cells):
        return "string"
    if all(isinstance(cell, int) and not isinstance(cell, bool) for cell in cells):
        return "integer"
    if all(isinstance(cell, int | float) and not isinstance(cell, bool) for cell in cells):
        return "double"
    return "date" if all(isinstance(c, str) and DAY.match(c) for c in cells) else "string"

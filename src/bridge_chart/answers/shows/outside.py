"""An answer for outside: small numbers are hidden, and none can be worked out from those shown.

Rows are the cells of a table with its sums; which of them to hide is found by an attacker who
knows all that is shown (`core.hiding`). Nothing that orders, counts or leads to students goes out
with them: no reasons of those missing, no quartiles, no links.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.figures.pinned import pinned_rows
from bridge_chart.answers.figures.rows import rows_together
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.shows.lines import name_of
from bridge_chart.answers.shows.show import Lines
from bridge_chart.core.arrays import Integers, Mask
from bridge_chart.core.hiding.shares import FEWEST_SHOWN
from bridge_chart.terms.answer import Row
from bridge_chart.terms.errors import InvalidQuestion, TooWide

SECONDS = 30.0
"""How long may be thought about what to hide; what is not solved by then does not go out."""
HIDDEN = "hidden"


def counted_in(part: Slice) -> tuple[Integers, Integers]:
    """The students counted in the rows, and the row of each."""
    at, code = part.grouping.at, part.grouping.code
    held = ~np.isnan(part.out.values[at]) & (code >= 0)
    return at[held], code[held].astype(np.int64)


def shown_cells(part: Slice, code: Integers, columns: Integers | None, width: int) -> Mask:
    """(rows,) or (rows, width) whose count may be shown. columns: a second code of each student
    counted, 0 … width − 1: then the sums of both stand in the file."""
    grouping = part.grouping
    if grouping.overlaps:
        raise InvalidQuestion(
            "Students stand in several of these rows, so what one row hides another could tell.",
            next_step="Split by something of which every student has one value.",
        )
    groups = len(grouping.groups)
    outer, inner, sizes = _dimensions(grouping, code)
    fields, pairs = [outer], []
    if inner is not None:
        fields.append(inner)
        pairs.append((0, 1))
    if columns is not None:
        # Two splits and the columns are one table of rows by columns.
        fields, sizes, pairs = [code, columns], [groups, width], [(0, 1)]

    def pattern() -> Mask:
        # Integer programming is loaded where it is needed: it costs as much as a whole answer.
        from bridge_chart.core.hiding.lattice import lattice_of
        from bridge_chart.core.hiding.suppress import OutOfTime, suppress

        lattice = lattice_of(fields, sizes, np.zeros(len(code), bool), pairs)
        try:
            found = suppress(lattice, hits=False, seconds=SECONDS)
        except OutOfTime as late:
            raise TooWide(
                f"Which numbers to hide was not found in {SECONDS:.0f} seconds, so nothing was "
                "written.",
                next_step="Narrow it, or choose a split of fewer rows.",
            ) from late
        if found.unprotected:
            raise InvalidQuestion(
                "These are too few students for any number of them to go outside.",
                next_step="Ask about more of them.",
            )
        return found.release.count_shown

    digest = hashlib.blake2b(b"|".join(field.tobytes() for field in fields)).hexdigest()
    shown = kept_for(part.view.snapshot, ("outside", digest, tuple(sizes)), pattern)
    return _by_row(shown, grouping, sizes, inner is not None, columns is not None)


def _dimensions(grouping: Grouping, code: Integers) -> tuple[Integers, Integers | None, list[int]]:
    """The codes of the first and of the second split of those counted, and their sizes."""
    if not grouping.within:
        return code, None, [len(grouping.groups)]
    places: list[dict[str, int]] = [{}, {}]
    at = np.empty((len(grouping.groups), 2), np.int64)
    for n, group in enumerate(grouping.groups):
        for level, step in enumerate(group.steps[:2]):
            at[n, level] = places[level].setdefault(step.name, len(places[level]))
    return at[code, 0], at[code, 1], [len(places[0]), len(places[1])]


def _by_row(shown: Mask, grouping: Grouping, sizes: list[int], two: bool, columns: bool) -> Mask:
    """What the lattice says of each row (and column): everyone comes first in it, then each
    category, then the pairs."""
    pairs = shown[1 + sum(sizes) :]
    if columns:
        rows = shown[1 : 1 + sizes[0]]
        return np.asarray(pairs.reshape(sizes[0], sizes[1]) & rows[:, None])
    if not two:
        return np.asarray(shown[1:])
    table = pairs.reshape(sizes[0], sizes[1])
    places: list[dict[str, int]] = [{}, {}]
    out = np.zeros(len(grouping.groups), bool)
    for n, group in enumerate(grouping.groups):
        i, j = (
            places[level].setdefault(step.name, len(places[level]))
            for level, step in enumerate(group.steps[:2])
        )
        out[n] = table[i, j]
    return out


def in_no_order(labels: Sequence[str]) -> list[int]:
    """Rows by their names: an order by their figures would tell those that are hidden."""
    return sorted(range(len(labels)), key=lambda n: labels[n].casefold())


def rows_outside(parts: Sequence[Slice]) -> Lines:
    """Mean, distance and interval of the rows that may be shown."""
    heads = ["row", "label", "n", "mean", "yardstick", "span", "low", "high", "verdict"]
    lines: list[list[object]] = []
    for part, rows in zip(parts, rows_together(parts), strict=True):
        _, code = counted_in(part)
        shown = shown_cells(part, code, None, 0)
        digits = part.view.quantity.decimals + 1
        lines += [_line("reference", row, digits, shown=True) for row in _beside(part, len(code))]
        kind = part.grouping.label
        for n in in_no_order([row.label for row in rows]):
            lines.append(_line(kind, rows[n], digits, shown=bool(shown[n])))
    return heads, lines


def _beside(part: Slice, counted: int) -> list[Row]:
    """Pinned rows from which the rows leave nobody, or enough."""
    return [
        row for row in pinned_rows(part)
        if row.key == "nation" or not 0 < row.n - counted < FEWEST_SHOWN
    ]  # fmt: skip


def _line(kind: str, row: Row, digits: int, *, shown: bool) -> list[object]:
    if not shown:
        return [kind, name_of(row), HIDDEN, None, None, None, None, None, None]
    figures = (row.mean, row.yardstick, row.span, row.low, row.high)
    told = [None if x is None else round(x, digits) for x in figures]
    return [kind, name_of(row), row.n, *told, row.verdict]

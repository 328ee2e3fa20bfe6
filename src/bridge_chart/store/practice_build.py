"""Estimates from practice results: a table says which result of a practice test counts as which
record of a standard."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bridge_chart.store.codes import IN_FIGURES, STEPPED
from bridge_chart.store.columns import Columns
from bridge_chart.store.reference_tables import figure_said, same, tidy

Array = NDArray[Any]
Cells = Mapping[str, Any]
TEXTS = ("standard", "title", "subject", "level", "kind", "result")


@dataclass(frozen=True)
class Estimated:
    """One row of the table for the students whose result it is: positions, batches and lines of
    their results, the day of the sitting, the texts of the record, its credits."""

    at: Array
    batch: Array
    line: Array
    day: dt.date
    texts: dict[str, str]
    credits: float


class Practice:
    """Reads the measures of a manifest. rows: of the practice tables, oldest first."""

    def __init__(self, rows: Sequence[Cells], made: Mapping[str, Any], columns: Columns) -> None:
        self.columns = columns
        self._files: Mapping[str, Mapping[str, str]] = made["measure_files"]
        self._measured = [
            (item, self._ladders(rows, item)) for item in made["measures"] if rows
        ]  # fmt: skip

    @property
    def made_from(self) -> list[Any]:
        """What its estimates hang on."""
        used = [(item["key"], ladders) for item, ladders in self._measured if ladders]
        return [
            [key, item_files["value"], item_files["batch"], list(map(dict, ladder))]
            for key, ladders in used
            for item_files in (self._files[key],)
            for ladder in ladders
        ]

    def estimates(self) -> list[Estimated]:
        """A record for each student and standard of whom a practice result says one."""
        out = []
        for item, ladders in self._measured:
            for ladder in ladders:
                out += self._of_ladder(item, ladder)
        return out

    def _ladders(self, rows: Sequence[Cells], item: Mapping[str, Any]) -> list[list[Cells]]:
        """The rows about a measure, by standard; the newest table's of each."""
        subject = item["subject"]["name"] if item["subject"] else None
        found: dict[str, list[Cells]] = {}
        for row in rows:
            about = (
                same(row["test"]) == same(item["assessment"]["name"])
                and same(row.get("subject")) in ("", same(subject))
                and same(row.get("sitting")) in ("", same(item["sitting"]["name"]))
                and (row.get("role") or "result") == item["role"]
            )
            if about and self._in_score(row, item["score"]):
                found.setdefault(same(row["standard"]), []).append(row)
        newest = {name: max(row["batch"] for row in of) for name, of in found.items()}
        return [[row for row in of if row["batch"] == newest[name]] for name, of in found.items()]

    def _in_score(self, row: Cells, score: str) -> bool:
        if row.get("score"):
            return bool(row["score"] == score)
        figure = figure_said(row["value"]) is not None
        return score in IN_FIGURES if figure else score in STEPPED

    def _of_ladder(self, item: Mapping[str, Any], ladder: list[Cells]) -> list[Estimated]:
        files = self._files[item["key"]]
        values = np.asarray(self.columns.read(files["value"]))
        batch, line = (np.asarray(self.columns.read(files[name])) for name in ("batch", "line"))
        place = self._places(item, ladder, values)
        subject = item["subject"]["name"] if item["subject"] else ""
        out = []
        for n, row in enumerate(ladder):
            at = np.flatnonzero(place == n)
            if not len(at) or not (row.get("credits") or 0) > 0:
                continue
            texts = {name: row.get(name) or "" for name in TEXTS}
            texts["subject"] = row.get("of_subject") or subject
            day = dt.date.fromisoformat(item["date"])
            out.append(Estimated(at, batch[at], line[at], day, texts, float(row["credits"])))
        return out

    def _places(self, item: Mapping[str, Any], ladder: list[Cells], values: Array) -> Array:
        """(students,) which row of the ladder each student's result is, −1 = none: of figures the
        highest that is reached."""
        out = np.full(len(values), -1)
        if item["steps"]:
            names = [tidy(name) for name in item["steps"]]
            for n, row in enumerate(ladder):
                if tidy(row["value"]) in names:
                    out[values == names.index(tidy(row["value"])) + 1] = n
            return out
        lowest = [(figure_said(row["value"]), n) for n, row in enumerate(ladder)]
        for figure, n in sorted((f, n) for f, n in lowest if f is not None):
            out[values >= figure] = n
        return out

"""Credit records of a version as columns, and a measure of them for each school year: the credits
banked until then."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import lcm
from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.store.bulk import EPOCH, read_out
from bridge_chart.store.codes import CREDITS, STATUSES
from bridge_chart.store.practice_build import Practice
from bridge_chart.store.same_names import SameNames
from bridge_chart.terms.calendar import school_year_of, year_bounds

Array = NDArray[Any]
Column = Callable[[str, Sequence[int], list[Any], Callable[[], Array]], str]
CREDITS_ID = 2_000_000_000
"""Stands for the credit records where a test has its id; a school year's follow it."""
NAMES = ("standard", "title", "subject", "level", "kind", "result")
COLUMNS = ("student", *NAMES, "credits", "banked", "day", "batch", "line")
FIELDS = np.dtype([
    ("student_id", np.int32), ("batch_id", np.int32), ("row", np.int32), ("credits", np.float64),
    ("estimated", bool), ("date", np.int32), *((name, np.int32) for name in NAMES),
])  # fmt: skip
"""A record as it is read; its date in days since 1970."""
FINEST = 6
"""Decimals of a credit that are told apart."""


@dataclass(frozen=True)
class _Rows:
    """The records that hold, by student, standard, estimated and date."""

    student: Array
    codes: dict[str, Array]
    names: dict[str, list[str]]
    credits: Array
    parts: int
    banked: Array
    day: Array
    batch: Array
    line: Array


class CreditBuilder:
    """Reads the credit records of the active batches, once."""

    def __init__(
        self, connection: sa.Connection, ids: Array, batches: list[Any], names: SameNames,
        practice: Practice, column: Column,
    ) -> None:  # fmt: skip
        self.connection = connection
        self.ids = ids
        self.batches = sorted(b["id"] for b in batches if b["kind"] == "credits")
        self.names = names
        self.practice = practice
        self.column = column
        self._read: _Rows | None = None

    def build(self) -> dict[str, Any]:
        """The manifest's part: `credits` (none without records), `credit_years`, and their files
        among `measure_files`."""
        out: dict[str, Any] = {"credits": None, "credit_years": [], "measure_files": {}}
        if not self.batches and not self.practice.made_from:
            return out
        rows = self.rows
        if not len(rows.student):
            return out
        files = {
            name: self._kept(name, lambda name=name: self._columns()[name])  # type: ignore[misc]
            for name in COLUMNS
        }
        out["credits"] = {"files": files, "names": rows.names, "parts": rows.parts}
        for year, last in self._years():
            out["credit_years"].append(self._measure(year, last))
            out["measure_files"][f"credits.{year}"] = self._year_files(year)
        return out

    def _kept(self, what: str, make: Callable[[], Array]) -> str:
        told = [sorted(self.names.declared("subject").items()), self.practice.made_from]
        return self.column(f"credit-{what}", self.batches, told, make)

    def _columns(self) -> dict[str, Array]:
        rows = self.rows
        return {
            "student": rows.student, **rows.codes, "credits": rows.credits, "banked": rows.banked,
            "day": rows.day, "batch": rows.batch, "line": rows.line,
        }  # fmt: skip

    def _years(self) -> list[tuple[str, dt.date]]:
        """School years with a record, and the newest day in each."""
        days = [dt.date(1970, 1, 1) + dt.timedelta(int(d)) for d in np.unique(self.rows.day)]
        newest: dict[str, dt.date] = {school_year_of(day): day for day in days}
        return sorted(newest.items())

    def _measure(self, year: str, last: dt.date) -> dict[str, Any]:
        parts = self.rows.parts
        decimals = next((d for d in range(3) if 10**d % parts == 0), 3)
        return {
            "key": f"credits.{year}",
            "assessment": {"id": CREDITS_ID, "name": CREDITS, "also": []},
            "subject": None,
            "sitting": {"id": CREDITS_ID + int(year[:4]), "name": year, "also": []},
            "date": str(last), "academic_year": year, "role": "result", "kind": "",
            "score": "credits", "steps": [], "points": [], "pass_at": None, "forms": {},
            "decimals": decimals, "set_aside": 0,
        }  # fmt: skip

    def _year_files(self, year: str) -> dict[str, str]:
        def kept(what: str, make: Callable[[], Array]) -> str:
            return self._kept(f"{what}-{year}", make)

        def order() -> Array:
            values = self._banked(year)
            held = np.argsort(values, kind="stable").astype(np.int32)
            return held[: int(np.count_nonzero(~np.isnan(values)))]

        students = len(self.ids)
        sat, no_row = STATUSES.index("sat"), STATUSES.index("no_row")
        return {
            "value": kept("value", lambda: self._banked(year)),
            "order": kept("order", order),
            "status": kept("status", lambda: np.where(
                np.isnan(self._banked(year)), no_row, sat).astype(np.int8)),
            "tested_year_level": kept("level", lambda: np.full(students, -1, np.int8)),
            "batch": kept("from", lambda: np.zeros(students, np.int32)),
            "line": kept("at", lambda: np.zeros(students, np.int32)),
            "form": kept("form", lambda: np.zeros(students, np.int32)),
        }  # fmt: skip

    def _banked(self, year: str) -> Array:
        """(students,) credits banked until the end of a school year, the best record of each
        standard; NaN for who has no record at all by then."""
        rows = self.rows
        known = rows.day <= _last_day(year)
        out = np.full(len(self.ids), np.nan)
        out[np.unique(rows.student[known])] = 0.0
        sure = known & rows.banked
        pair = rows.student[sure].astype(np.int64) * len(rows.names["standard"])
        pair += rows.codes["standard"][sure]
        held, at = np.unique(pair, return_inverse=True)
        best = np.zeros(len(held), np.int64)
        np.maximum.at(best, at, rows.credits[sure])
        sums = np.bincount(
            held // len(rows.names["standard"]), weights=best, minlength=len(self.ids)
        )
        return np.where(np.isnan(out), np.nan, sums / rows.parts)

    @property
    def rows(self) -> _Rows:
        if self._read is None:
            self._read = self._of_record()
        return self._read

    def _of_record(self) -> _Rows:
        """Of several that say the same standard of a student on the same day, banked or not, the
        newest batch's; of estimates the newest day's."""
        told, texts_of = self._with_practice(*self._of_files())
        day = np.where(told["estimated"], 0, told["date"])
        held = _last_of(told["student_id"], told["standard"], told["estimated"], day)
        told = told[held]
        codes, names = {}, {}
        for name in NAMES:
            texts = [self._called(name, text) for text in texts_of[name]]
            known = {text: n for n, text in enumerate(dict.fromkeys(filter(None, texts)))}
            names[name] = list(known)
            code = np.array([known.get(text, -1) for text in texts], np.int32)
            codes[name] = code[told[name]]
        credits, parts = _exact(told["credits"])
        return _Rows(
            np.searchsorted(self.ids, told["student_id"]), codes, names, credits, parts,
            ~told["estimated"], told["date"], told["batch_id"], told["row"],
        )  # fmt: skip

    def _with_practice(
        self, told: Array, texts: dict[str, list[str]]
    ) -> tuple[Array, dict[str, list[str]]]:
        """Records of files and of practice results by student, standard, estimated and date, the
        newest batch last."""
        every = [told]
        for one in self.practice.estimates():
            rows = np.zeros(len(one.at), FIELDS)
            rows["student_id"], rows["batch_id"], rows["row"] = (
                self.ids[one.at],
                one.batch,
                one.line,
            )
            rows["credits"], rows["estimated"] = one.credits, True
            rows["date"] = (one.day - dt.date(1970, 1, 1)).days
            for name, text in one.texts.items():
                if text not in texts[name]:
                    texts[name].append(text)
                rows[name] = texts[name].index(text)
            every.append(rows)
        rows = np.concatenate(every)
        order = ("row", "batch_id", "date", "estimated", "standard", "student_id")
        return rows[np.lexsort([rows[name] for name in order])], texts

    def _of_files(self) -> tuple[Array, dict[str, list[str]]]:
        """Every record of the files; texts as their places in what is given beside."""
        if not self.batches:
            return np.zeros(0, FIELDS), {name: [] for name in NAMES}
        rows = self._read_out()
        rows["date"] += EPOCH.astype(int).astype(np.int32)
        return rows, {name: self._texts(name) for name in NAMES}

    def _read_out(self) -> Array:
        coded = ", ".join(f"{name}_code.n AS {name}" for name in NAMES)
        joins = " ".join(
            f"JOIN ({self._distinct(name)}) AS {name}_code ON {name}_code.text = credit.{name}"
            for name in NAMES
        )
        return read_out(
            self.connection,
            f"SELECT student_id, batch_id, row, credits, estimated, date, {coded} FROM credit "
            f"{joins} WHERE batch_id IN ({self._listed})",
            FIELDS,
        )

    def _texts(self, name: str) -> list[str]:
        query = sa.text(f"SELECT text FROM ({self._distinct(name)}) AS told ORDER BY n")
        return [row[0] for row in self.connection.execute(query)]

    def _distinct(self, name: str) -> str:
        """Every text of a column once, with its place."""
        return (
            f'SELECT text, (row_number() OVER (ORDER BY text COLLATE "C") - 1)::int AS n FROM '
            f"(SELECT DISTINCT {name} AS text FROM credit WHERE batch_id IN ({self._listed})) AS d"
        )

    @property
    def _listed(self) -> str:
        return ",".join(map(str, self.batches))

    def _called(self, name: str, text: str) -> str:
        text = text.strip()
        return self.names.means("subject", text) if name == "subject" and text else text


def _last_of(*sorted_columns: Array) -> Array:
    """The last row of each run of equal values."""
    last = np.ones(len(sorted_columns[0]), bool)
    last[:-1] = np.logical_or.reduce([column[1:] != column[:-1] for column in sorted_columns])
    return np.flatnonzero(last)


def _exact(credits: Array) -> tuple[Array, int]:
    """Credits as they were written (0.1 is a tenth), in whole parts, and how many make one."""
    each, place = np.unique(credits.round(FINEST), return_inverse=True)
    worth = [Fraction(str(one)) for one in each.tolist()]
    parts = lcm(1, *(one.denominator for one in worth))
    return np.array([int(one * parts) for one in worth], np.int64)[place], parts


def _last_day(year: str) -> int:
    """The last day of a school year, in days since 1970."""
    return (year_bounds(year)[1] - dt.date(1970, 1, 1)).days

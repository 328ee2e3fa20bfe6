"""The measures of a version as columns: results, targets and predictions, marks by question."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.store.bulk import read_out
from bridge_chart.store.codes import SCORES, STATUSES, STEPPED
from bridge_chart.store.columns import Columns
from bridge_chart.store.mark_build import counted_sets, marked_forms, totals
from bridge_chart.store.reference_tables import ReferenceTables, Scale, Step
from bridge_chart.store.same_names import folded
from bridge_chart.terms.calendar import school_year_of

Array = NDArray[Any]
Column = Callable[[str, Sequence[int], list[Any], Callable[[], Array]], str]
"""Writes a column unless it is there: what it is, the batches and whatever else it is made from,
how; gives its name."""

ATTEMPT_COLUMNS: dict[str, tuple[int, Any]] = {
    "status": (0, np.int8),
    "tested_year_level": (-1, np.int8),
    "batch_id": (0, np.int32),
    "row": (0, np.int32),
    "form_id": (0, np.int32),
}
"""What a student's latest attempt gives, and what stands where there is none."""
ADDED_UP = -1
"""In place of a file's column: the result was added up from the questions."""


class MeasureBuilder:
    """Works through the sittings that the active batches speak of."""

    def __init__(
        self,
        connection: sa.Connection,
        ids: Array,
        batches: list[Any],
        active: str,
        tables: dict[str, list[dict[str, Any]]],
        column: Column,
        columns: Columns,
    ) -> None:
        self.connection = connection
        self.ids = ids
        self.batches = {b["id"]: b for b in batches}
        self.active = active
        self.tables = ReferenceTables(tables)
        self.column = column
        self.columns = columns

    def build(self) -> dict[str, Any]:
        """The manifest's part: `measures`, `measure_files`, `marked_forms` by sitting."""
        touching: dict[int, list[int]] = {}
        for batch_id in sorted(self.batches):
            for sitting_id in self.batches[batch_id]["counts"].get("sitting_ids", []):
                touching.setdefault(sitting_id, []).append(batch_id)
        out: dict[str, Any] = {"measures": [], "measure_files": {}, "marked_forms": {}}
        for sitting in self._sittings(list(touching)):
            batches = sorted({b for one in sitting["ids"] for b in touching[one]})
            sheet = _Sheet(self, sitting, batches)
            shared = {
                "status": sheet.file("status"),
                "tested_year_level": sheet.file("tested_year_level"),
                "batch": sheet.file("batch_id"),
                "line": sheet.file("row"),
                "form": sheet.file("form_id"),
            }
            forms = marked_forms(sheet)
            if forms:
                out["marked_forms"][str(sitting["id"])] = forms
            for about in sheet.measured():
                value = sheet.value_file(about, forms)
                key = ".".join(str(x) for x in (sitting["id"], *about.key))
                out["measures"].append(self._described(sitting, sheet, about, key, value))
                order = sheet.order_file(about, value)
                out["measure_files"][key] = {"value": value, "order": order, **shared}
        return out

    def _sittings(self, ids: list[int]) -> list[dict[str, Any]]:
        query = sa.text(
            "SELECT sitting.id, sitting.name, coalesce(said.date, sitting.date) AS date, "
            "assessment_id, assessment.name AS assessment, subject_id, subject.name AS subject, "
            f"(SELECT count(*) FROM set_aside WHERE sitting_id = sitting.id "
            f"AND batch_id IN ({self.active}) "
            f"AND (settled_by IS NULL OR settled_by NOT IN ({self.active}))) AS set_aside, "
            "(SELECT jsonb_object_agg(form.id, form.name) FROM form "
            "WHERE sitting_id = sitting.id) AS forms "
            "FROM sitting JOIN assessment ON assessment.id = assessment_id "
            "LEFT JOIN subject ON subject.id = subject_id "
            "LEFT JOIN LATERAL (SELECT date FROM sitting_date WHERE sitting_id = sitting.id "
            f"AND batch_id IN ({self.active}) ORDER BY batch_id DESC LIMIT 1) AS said ON true "
            "WHERE sitting.id = ANY(:ids) ORDER BY sitting.id"
        )
        rows = self.connection.execute(query, {"ids": ids}).mappings()
        found = self._put_together([dict(row) for row in rows])
        return sorted(
            found,
            key=lambda s: (s["date"], s["assessment"], s["subject"] is None, s["subject"], s["id"]),
        )

    def _put_together(self, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Sittings whose test, subject and name mean the same are one, dated as declared, else as
        the oldest is."""
        names = self.tables.names
        for row in rows:
            row["name"] = names.means("sitting", row["name"], row["assessment"])
            row["assessment"] = names.means("test", row["assessment"])
            row["subject"] = row["subject"] and names.means("subject", row["subject"])
        tests = folded(
            (row["assessment_id"], row["assessment"]) for row in _first(rows, "assessment_id")
        )
        subjects = folded((row["subject_id"], row["subject"]) for row in _first(rows, "subject_id"))
        told = {("assessment", item["name"]): item for item in tests}
        told |= {("subject", item["name"]): item for item in subjects}
        groups: dict[tuple[str, str, str], list[dict[str, Any]]] = {}
        for row in rows:
            key = (row["assessment"], row["subject"] or "", row["name"])
            groups.setdefault(key, []).append(row)
        out = []
        for key, held in groups.items():
            said = names.date(*key)
            date = held[0]["date"] if said is None else dt.date.fromisoformat(said)
            out.append({
                **held[0],
                "ids": [row["id"] for row in held],
                "assessment_named": told["assessment", key[0]],
                "subject_named": told["subject", key[1]] if key[1] else None,
                "set_aside": sum(row["set_aside"] for row in held),
                "forms": {k: v for row in held for k, v in (row["forms"] or {}).items()},
                "date": date,
                "academic_year": school_year_of(date),
            })  # fmt: skip
        return out

    def _described(
        self, sitting: dict[str, Any], sheet: _Sheet, about: About, key: str, value: str
    ) -> dict[str, Any]:
        values = self.columns.read(value)
        held = values[~np.isnan(values)]
        names, scale = sheet.steps(about.score)
        points = {step.name: step.points for step in scale.steps} if scale else {}
        passing = [n for n, step in enumerate(scale.steps) if step.passes] if scale else []
        return {
            "key": key,
            "assessment": sitting["assessment_named"],
            "subject": sitting["subject_named"],
            "sitting": {"id": sitting["id"], "name": sitting["name"], "also": sitting["ids"][1:]},
            "date": str(sitting["date"]),
            "academic_year": sitting["academic_year"],
            "role": about.role,
            "kind": about.kind,
            "score": about.score,
            "steps": names,
            "points": [points.get(name) for name in names],
            "pass_at": min(passing, default=None),
            "forms": {int(k): v for k, v in sitting["forms"].items()},
            "decimals": next(
                (d for d in (0, 1, 2) if np.allclose(held, held.round(d), rtol=0, atol=1e-9)), 3
            ),
            "set_aside": sitting["set_aside"],
        }


class About:
    """Which of a sitting's measures: its role, kind and score; `kind_id` where it is a claim."""

    def __init__(self, score: str, role: str = "result", kind: str = "", kind_id: int = 0) -> None:
        self.score, self.role, self.kind, self.kind_id = score, role, kind, kind_id

    @property
    def key(self) -> tuple[str, ...]:
        """The measure's name within its sitting."""
        if self.role == "result":
            return (self.score,)
        return (self.role, str(self.kind_id), self.score)


class _Sheet:
    """One sitting's facts, read once if any of its columns has to be written."""

    def __init__(
        self, builder: MeasureBuilder, sitting: dict[str, Any], batches: list[int]
    ) -> None:
        self.builder = builder
        self.sitting = sitting
        self.sitting_id = int(sitting["id"])
        self.sitting_ids = [int(one) for one in sitting["ids"]]
        self.listed = ",".join(map(str, self.sitting_ids))
        self.batches = batches
        self._steps: dict[str, tuple[list[str], Scale | None, dict[int, int]]] = {}

    def measured(self) -> list[About]:
        """The results by kind of score, then targets and predictions."""
        scores: set[str] = set()
        claims: dict[tuple[str, ...], About] = {}
        for batch_id in self.batches:
            counts = self.builder.batches[batch_id]["counts"]
            for name in map(str, self.sitting_ids):
                scores |= set(counts["scores"].get(name, []))
                for role, kind, score, kind_id in counts.get("claims", {}).get(name, []):
                    about = About(score, role, kind, kind_id)
                    claims[about.key] = about
        return [About(s) for s in sorted(scores, key=SCORES.index)] + list(claims.values())

    def file(self, what: str) -> str:
        return self.builder.column(
            f"{what}-{self.sitting_id}", self.batches, self.sitting_ids,
            lambda: self.attempted(what),
        )  # fmt: skip

    def attempted(self, what: str) -> Array:
        nobody, kind = ATTEMPT_COLUMNS[what]
        out = np.full(len(self.builder.ids), nobody, kind)
        out[self.attempts["at"]] = self.attempts[what]
        return out

    def value_file(self, about: About, forms: list[dict[str, Any]]) -> str:
        names, _, place = self._step_places(about.score)
        origin = [*self.sitting_ids, about.key, names, sorted(place.items())]
        added_up = forms if about.key == ("raw",) else []
        if added_up:
            sets = counted_sets(self, forms)
            origin.append([[form["files"]["marks"] for form in forms], sets])
        return self.builder.column(
            f"value-{self.sitting_id}", self.batches, origin, lambda: self._values(about, added_up)
        )

    def order_file(self, about: About, value: str) -> str:
        def make() -> Array:
            values = self.builder.columns.read(value)
            order = np.argsort(values, kind="stable").astype(np.int32)
            return order[: int(np.count_nonzero(~np.isnan(values)))]

        return self.builder.column(f"order-{self.sitting_id}", [], [value], make)

    def steps(self, score: str) -> tuple[list[str], Scale | None]:
        """Step names from lowest: as the scale declares them; without one, as they were kept."""
        names, scale, _ = self._step_places(score)
        return names, scale

    def _step_places(self, score: str) -> tuple[list[str], Scale | None, dict[int, int]]:
        """Names, scale, and step id → place from 1; none of a kept name that the scale has not."""
        if score not in STEPPED:
            return [], None, {}
        if score not in self._steps:
            query = sa.text(
                "SELECT step.id, step.name FROM step JOIN scale ON scale.id = scale_id "
                "WHERE score = :score AND EXISTS (SELECT 1 FROM sitting "
                "WHERE sitting.id = ANY(:sittings) "
                "AND sitting.assessment_id = scale.assessment_id "
                "AND sitting.subject_id IS NOT DISTINCT FROM scale.subject_id) "
                "ORDER BY scale.id, position"
            )
            asked = {"score": score, "sittings": self.sitting_ids}
            kept = list(self.builder.connection.execute(query, asked))
            scale = self.builder.tables.scale(
                self.sitting["assessment"], self.sitting["subject"], score
            )
            named = dict.fromkeys(name for _, name in kept)
            declared = scale or Scale(tuple(Step(name) for name in named))
            names = [step.name for step in declared.steps]
            found = {step: declared.place(name) for step, name in kept}
            place = {step: at + 1 for step, at in found.items() if at is not None}
            self._steps[score] = (names, scale, place)
        return self._steps[score]

    def _values(self, about: About, forms: list[dict[str, Any]]) -> Array:
        """Later batches win; a later status without a score takes an earlier score away. What was
        added up from the questions is added up from them as they hold now."""
        values = np.full(len(self.builder.ids), np.nan)
        summed = np.zeros(len(values), bool)
        code = SCORES.index(about.score)
        claimed = about.role != "result"
        facts = self.claims if claimed else self.results
        place = self._step_places(about.score)[2]
        table = np.full(max(place, default=0) + 1, np.nan)
        table[list(place)] = list(place.values())
        for batch_id in self.batches:
            given = facts[(facts["batch_id"] == batch_id) & (facts["score"] == code)]
            if claimed:
                given = given[given["kind_id"] == about.kind_id]
            else:
                unsat = self.attempts[
                    (self.attempts["batch_id"] == batch_id)
                    & (self.attempts["status"] != STATUSES.index("sat"))
                ]
                values[unsat["at"]] = np.nan
            stepped = given["step_id"] > 0
            known = stepped & (given["step_id"] < len(table))
            step = table[np.where(known, given["step_id"], 0)]
            values[given["at"]] = np.where(stepped, step, given["value"])
            summed[given["at"]] = not claimed and given["column"] == ADDED_UP
        if forms and summed.any():
            summed &= ~np.isnan(values)
            values[summed] = totals(self, forms)[summed]
        return values

    @cached_property
    def attempts(self) -> Array:
        return self._read(
            "SELECT batch_id, row, student_id AS at, status, tested_year_level, form_id "
            "FROM attempt",
            [("batch_id", np.int32), ("row", np.int32), ("at", np.int32), ("status", np.int16),
             ("tested_year_level", np.int16), ("form_id", np.int32)],
        )  # fmt: skip

    @cached_property
    def results(self) -> Array:
        return self._read(
            "SELECT batch_id, student_id AS at, score, value, step_id, \"column\" FROM result",
            [("batch_id", np.int32), ("at", np.int32), ("score", np.int16),
             ("value", np.float64), ("step_id", np.int32), ("column", np.int16)],
        )  # fmt: skip

    @cached_property
    def claims(self) -> Array:
        return self._read(
            "SELECT batch_id, student_id AS at, score, value, step_id, kind_id FROM claim",
            [("batch_id", np.int32), ("at", np.int32), ("score", np.int16),
             ("value", np.float64), ("step_id", np.int32), ("kind_id", np.int32)],
        )  # fmt: skip

    def _read(self, select: str, fields: list[tuple[str, Any]]) -> Array:
        listed = ",".join(map(str, self.batches))
        rows = read_out(
            self.builder.connection,
            f"{select} WHERE sitting_id IN ({self.listed}) AND batch_id IN ({listed})",
            np.dtype(fields),
        )
        rows = rows[np.argsort(rows["batch_id"], kind="stable")]
        rows["at"] = np.searchsorted(self.builder.ids, rows["at"])
        return rows


def _first(rows: list[dict[str, Any]], key: str) -> list[dict[str, Any]]:
    """The first row of each id that is one."""
    return list({row[key]: row for row in reversed(rows) if row[key]}.values())

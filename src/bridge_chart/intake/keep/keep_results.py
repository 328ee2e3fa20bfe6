"""Writing the facts of a results file: an attempt per row, a result per score."""

from __future__ import annotations

from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.intake.examine.credits import TEXTS, CreditsPlan
from bridge_chart.intake.examine.results import ResultsPlan
from bridge_chart.intake.keep.identities import named_ids, row_ids
from bridge_chart.intake.keep.keep_answered import write_answered
from bridge_chart.intake.keep.keep_roster import records
from bridge_chart.store import tables as t
from bridge_chart.store.bulk import copy_in, copy_text_in, days, reserve_ids
from bridge_chart.store.codes import SCORES, STATUSES, UNITS
from bridge_chart.store.measure_build import ADDED_UP
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.calendar import school_year_of
from bridge_chart.terms.progress import UNWATCHED, Progress

SAT = STATUSES.index("sat")


def write_results(
    connection: sa.Connection,
    plan: ResultsPlan,
    snapshot: Snapshot,
    batch_id: int,
    version: int,
    progress: Progress = UNWATCHED,
) -> dict[str, Any]:
    """Write the plan; return counts for the batch, with the sittings that it touches."""
    sittings = _sitting_ids(connection, plan, version)
    _say_dates(connection, plan, sittings, batch_id)
    rows = plan.rows
    count = rows.height
    first = reserve_ids(connection, "attempt_id_seq", count) if count else 0
    ids = np.arange(first, first + count, dtype=np.int64)
    students = snapshot.student_ids[rows["student"].to_numpy()].astype(np.int32)
    at = np.array(sittings, np.int32)[rows["sitting"].to_numpy()]
    lines = rows["line"].to_numpy()
    forms = _form_ids(connection, plan, snapshot, at)
    progress.at("write")
    _write_attempts(connection, plan, batch_id, ids, students, at, forms, progress)
    progress.at("write_scores")
    scores: dict[str, set[str]] = {str(sitting): set() for sitting in sittings}
    steps = _step_ids(connection, plan, version)
    for kind, column in plan.columns.items():
        values = rows[kind].cast(float).fill_null(np.nan).to_numpy()
        held = ~np.isnan(values)
        for sitting in np.unique(at[held]):
            scores[str(sitting)].add(kind)
        step = _step_of(steps.get(kind), rows["sitting"].to_numpy(), values, held)
        copy_in(
            connection,
            "result",
            records(
                int(held.sum()),
                batch_id=(np.int32, batch_id),
                row=(np.int32, lines[held]),
                attempt_id=(np.int64, ids[held]),
                student_id=(np.int32, students[held]),
                sitting_id=(np.int32, at[held]),
                column=(np.int16, _file_column(plan, column)[held]),
                part_id=(np.int32, 0),
                score=(np.int16, SCORES.index(kind)),
                value=(np.float64, np.nan if kind in steps else values[held]),
                step_id=(np.int32, step),
                status=(np.int16, SAT),
            ),
            progress,
        )
    if plan.grid is not None:
        write_answered(connection, plan, batch_id, ids, students, at, forms)
    claims = _write_claims(connection, plan, batch_id, students, at, steps)
    return {
        "results": count,
        "claims": claims,
        "sitting_ids": sorted(set(sittings)),
        "sitting_ids_in_order": sittings,
        "scores": {sitting: sorted(kinds) for sitting, kinds in scores.items()},
    }


def _file_column(plan: ResultsPlan, column: int) -> NDArray[np.int32]:
    """The file's own column of each row's score: a wide sheet has one per subject; −1 where it was
    added up from the questions."""
    if column == ADDED_UP:
        return np.full(plan.rows.height, ADDED_UP, np.int32)
    block = plan.long.block[plan.rows["index"].to_numpy()]
    place: NDArray[np.int32] = plan.long.origin[block, column]
    return place


def _write_attempts(
    connection: sa.Connection,
    plan: ResultsPlan,
    batch_id: int,
    ids: NDArray[np.int64],
    students: NDArray[np.int32],
    sittings: NDArray[np.int32],
    forms: NDArray[np.int32],
    progress: Progress,
) -> None:
    # A row that only brings a target or a prediction says nothing about sitting the test.
    sat = plan.rows["status"].to_numpy() != STATUSES.index("no_row")
    rows = plan.rows.filter(sat)
    copy_in(
        connection,
        "attempt",
        records(
            rows.height,
            batch_id=(np.int32, batch_id),
            row=(np.int32, rows["line"].to_numpy()),
            id=(np.int64, ids[sat]),
            student_id=(np.int32, students[sat]),
            sitting_id=(np.int32, sittings[sat]),
            tested_year_level=(np.int16, rows["year_level"].to_numpy()),
            number=(np.int16, 1),
            date=(np.int32, days(rows["date"].to_numpy())),
            status=(np.int16, rows["status"].to_numpy()),
            official=(np.bool_, True),
            form_id=(np.int32, forms[sat]),
        ),
        progress,
    )


def _form_ids(
    connection: sa.Connection, plan: ResultsPlan, snapshot: Snapshot, sittings: NDArray[np.int32]
) -> NDArray[np.int32]:
    """The form of each row; new forms are made. A row that names none is about the form that its
    student is known to have sat, else about none (0)."""
    out = np.zeros(plan.rows.height, np.int32)
    names = plan.rows["form"].to_numpy()
    for sitting in np.unique(sittings):
        for name in np.unique(names[(sittings == sitting) & (names != "")]):
            key = [{"sitting_id": int(sitting), "name": str(name)}]
            out[(sittings == sitting) & (names == name)] = row_ids(connection, t.form, key)[0]
    unnamed = names == ""
    for measure in snapshot.measures if unnamed.any() else ():
        if measure.forms and measure.role == "result":
            mine = unnamed & (sittings == measure.sitting.id)
            sat = np.asarray(snapshot.form(measure))
            out[mine] = sat[plan.rows["student"].to_numpy()[mine]]
    return out


def write_credits(
    connection: sa.Connection, plan: CreditsPlan, snapshot: Snapshot, batch_id: int
) -> dict[str, Any]:
    """Write credit records; return counts for the batch."""
    students = snapshot.student_ids[plan.rows["student"].to_numpy()].tolist()
    told = [*TEXTS, "credits", "estimated", "date"]
    rows = plan.rows.select("line", *told).rows()
    copy_text_in(
        connection, "credit", ["batch_id", "student_id", "row", *told],
        ((batch_id, student, *row) for student, row in zip(students, rows, strict=True)),
    )  # fmt: skip
    return {"records": len(students)}


def _write_claims(
    connection: sa.Connection,
    plan: ResultsPlan,
    batch_id: int,
    students: NDArray[np.int32],
    sittings: NDArray[np.int32],
    steps: dict[str, list[dict[int, int]]],
) -> dict[str, list[list[str | int]]]:
    """Targets and predictions; returns which there are: sitting → role, kind, score, id."""
    told: dict[str, list[list[str | int]]] = {}
    for n, claim in enumerate(plan.claims):
        key = [{"role": claim.role, "name": claim.kind}]
        kind = row_ids(connection, t.claim_kind, key)[0]
        values = plan.rows[f"claim {n}"].cast(float).fill_null(np.nan).to_numpy()
        held = ~np.isnan(values)
        step = _step_of(steps.get(claim.score), plan.rows["sitting"].to_numpy(), values, held)
        copy_in(
            connection,
            "claim",
            records(
                int(held.sum()),
                batch_id=(np.int32, batch_id),
                row=(np.int32, plan.rows["line"].to_numpy()[held]),
                column=(np.int16, _file_column(plan, claim.column)[held]),
                student_id=(np.int32, students[held]),
                sitting_id=(np.int32, sittings[held]),
                kind_id=(np.int32, kind),
                score=(np.int16, SCORES.index(claim.score)),
                value=(np.float64, np.nan if claim.score in steps else values[held]),
                step_id=(np.int32, step),
            ),
        )
        for sitting in np.unique(sittings[held]).tolist():
            told.setdefault(str(sitting), []).append([claim.role, claim.kind, claim.score, kind])
    return told


def _step_of(
    steps: list[dict[int, int]] | None,
    sitting: NDArray[Any],
    values: NDArray[np.float64],
    held: NDArray[np.bool_],
) -> NDArray[np.int32] | int:
    """The step id of each held value; 0 where the score has no steps."""
    if steps is None:
        return 0
    table = np.zeros((len(steps), 1 + max((max(s, default=0) for s in steps), default=0)), np.int32)
    for place, mapping in enumerate(steps):
        for position, step_id in mapping.items():
            table[place, position] = step_id
    out: NDArray[np.int32] = table[sitting[held], values[held].astype(np.int64)]
    return out


def _test_ids(
    connection: sa.Connection, plan: ResultsPlan, version: int
) -> list[tuple[int, int | None]]:
    """Per planned sitting: the assessment's and the subject's id."""
    tests = named_ids(
        connection, t.assessment, [s.test for s in plan.sittings], from_version=version
    )
    named = [s.subject for s in plan.sittings if s.subject]
    subjects = named_ids(connection, t.subject, named, from_version=version)
    return [(tests[s.test], subjects.get(s.subject)) for s in plan.sittings]


def _sitting_ids(connection: sa.Connection, plan: ResultsPlan, version: int) -> list[int]:
    ids = []
    for sitting, (test, subject) in zip(
        plan.sittings, _test_ids(connection, plan, version), strict=True
    ):
        key = [{"assessment_id": test, "subject_id": subject, "name": sitting.name}]
        year = school_year_of(sitting.date)
        ids += row_ids(connection, t.sitting, key, date=sitting.date, academic_year=year)
    return ids


def _say_dates(connection: sa.Connection, plan: ResultsPlan, ids: list[int], batch_id: int) -> None:
    """The dates that the file corrects, or says anew of a sitting of which nothing counts."""
    query = sa.select(t.sitting.c.id, t.sitting.c.date).where(t.sitting.c.id.in_(ids))
    first = {row.id: row.date for row in connection.execute(query)}
    said = {
        identity: sitting.date
        for identity, sitting in zip(ids, plan.sittings, strict=True)
        if sitting.corrects or (not sitting.known_id and first[identity] != sitting.date)
    }
    rows = [{"batch_id": batch_id, "sitting_id": i, "date": date} for i, date in said.items()]
    if rows:
        connection.execute(sa.insert(t.sitting_date), rows)


def _step_ids(
    connection: sa.Connection, plan: ResultsPlan, version: int
) -> dict[str, list[dict[int, int]]]:
    """Per stepped score and sitting: position in the file's order → step id. New names are added
    after the known ones; a scale whose order is wrong is mended in Setup."""
    out: dict[str, list[dict[int, int]]] = {}
    tests = _test_ids(connection, plan, version)
    for kind in dict.fromkeys([*plan.columns, *plan.levels]):
        for test, subject in tests:
            key = {"assessment_id": test, "subject_id": subject, "score": kind}
            scale = row_ids(connection, t.scale, [key], unit=UNITS[kind], from_version=version)[0]
            if kind not in plan.levels:
                continue
            query = sa.select(t.step.c.name, t.step.c.id).where(t.step.c.scale_id == scale)
            known = {row[0]: row[1] for row in connection.execute(query)}
            places = {}
            for place, name in enumerate(plan.levels[kind], start=1):
                if name not in known:
                    values = {"scale_id": scale, "name": name, "position": len(known) + 1}
                    made = sa.insert(t.step).values(**values).returning(t.step.c.id)
                    known[name] = int(connection.scalar(made) or 0)
                places[place] = known[name]
            out.setdefault(kind, []).append(places)
    return out

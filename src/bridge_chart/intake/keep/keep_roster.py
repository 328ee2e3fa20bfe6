"""Writing a roster's facts."""

from __future__ import annotations

from typing import Any

import numpy as np
import polars as pl
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.intake.examine.roster import RosterPlan
from bridge_chart.intake.keep.identities import (
    characteristic_ids,
    class_ids,
    named_ids,
    student_ids,
)
from bridge_chart.store import tables as t
from bridge_chart.store.bulk import copy_in, copy_text_in
from bridge_chart.store.codes import CLASS_KINDS
from bridge_chart.terms.progress import UNWATCHED, Progress


def records(length: int, **columns: tuple[Any, Any]) -> NDArray[np.void]:
    """A record array from name = (dtype, values or one value)."""
    out = np.empty(length, [(name, dtype) for name, (dtype, _) in columns.items()])
    for name, (_, values) in columns.items():
        out[name] = values
    return out


def write_roster(
    connection: sa.Connection,
    plan: RosterPlan,
    batch_id: int,
    version: int,
    progress: Progress = UNWATCHED,
) -> tuple[dict[str, Any], list[int]]:
    """Write the plan; return counts for the batch and the ids of the covered schools."""
    rows = plan.rows
    progress.at("write")
    numbers = rows["number"].to_list()
    students = student_ids(connection, numbers)
    ids = np.array([students[number] for number in numbers], np.int32)
    lines = rows["line"].to_numpy()
    names = [*rows["school"].unique().to_list(), *plan.covers]
    schools = named_ids(connection, t.school, names, from_version=version)
    copy_in(
        connection,
        "enrolment",
        records(
            len(ids),
            batch_id=(np.int32, batch_id),
            row=(np.int32, lines),
            student_id=(np.int32, ids),
            school_id=(np.int32, [schools[name] for name in rows["school"].to_list()]),
            year_level=(np.int16, rows["year_level"].to_numpy()),
        ),
    )
    progress.alive()
    _write_details(connection, rows, ids, batch_id)
    progress.at("write_more")
    counts = {
        "students": len(ids),
        "school_ids": sorted({schools[name] for name in rows["school"].unique().to_list()}),
        "option_ids": _write_characteristics(connection, rows, ids, batch_id, version),
        "class_ids": _write_classes(connection, plan, students, schools, batch_id, version),
    }
    return counts, sorted({schools[name] for name in plan.covers})


def _write_details(
    connection: sa.Connection, rows: pl.DataFrame, ids: NDArray[np.int32], batch_id: int
) -> None:
    named = rows.with_columns(id=pl.Series(ids)).filter(
        (pl.col("given_name") != "")
        | (pl.col("family_name") != "")
        | pl.col("birth_date").is_not_null()
    )
    columns = ["batch_id", "row", "student_id", "given_name", "family_name", "birth_date"]
    picked = named.select("line", "id", "given_name", "family_name", "birth_date").rows()
    copy_text_in(connection, "student_detail", columns, ((batch_id, *row) for row in picked))


def _write_characteristics(
    connection: sa.Connection,
    rows: pl.DataFrame,
    ids: NDArray[np.int32],
    batch_id: int,
    version: int,
) -> list[int]:
    """Write the values; return the ids of the options used."""
    columns = [name for name in rows.columns if name.startswith("x:")]
    values = {
        name[2:]: [value for value in rows[name].unique().sort().to_list() if value]
        for name in columns
    }
    known = characteristic_ids(connection, values, version)
    for name in columns:
        characteristic_id, options = known[name[2:]]
        held = (rows[name] != "").to_numpy()
        option = (
            rows[name]
            .replace_strict(options or {"": 0}, default=0, return_dtype=pl.Int32)
            .to_numpy()
        )
        copy_in(
            connection,
            "characteristic_value",
            records(
                int(held.sum()),
                batch_id=(np.int32, batch_id),
                row=(np.int32, rows["line"].to_numpy()[held]),
                student_id=(np.int32, ids[held]),
                characteristic_id=(np.int32, characteristic_id),
                option_id=(np.int32, option[held]),
            ),
        )
    return sorted(option for _, options in known.values() for option in options.values())


def _write_classes(
    connection: sa.Connection,
    plan: RosterPlan,
    students: dict[str, int],
    schools: dict[str, int],
    batch_id: int,
    version: int,
) -> list[int]:
    """Write members and teachers; return the ids of the classes."""
    members = plan.memberships
    pairs = members.select("school", "class").unique().sort("school", "class").rows()
    keys = [(schools[school], name) for school, name in pairs]
    found = class_ids(connection, plan.academic_year, keys)
    classes = {pair: found[key] for pair, key in zip(pairs, keys, strict=True)}
    picked = members.select("line", "number", "school", "kind", "class").unique(
        ["number", "school", "kind", "class"], keep="first", maintain_order=True
    )
    copy_in(
        connection,
        "class_member",
        records(
            picked.height,
            batch_id=(np.int32, batch_id),
            row=(np.int32, picked["line"].to_numpy()),
            student_id=(np.int32, [students[number] for number in picked["number"].to_list()]),
            class_id=(
                np.int32,
                [classes[pair] for pair in picked.select("school", "class").rows()],
            ),
            kind=(np.int16, [CLASS_KINDS.index(kind) for kind in picked["kind"].to_list()]),
        ),
    )
    taught = members.filter(pl.col("teacher") != "").unique(
        ["school", "class", "teacher"], keep="first", maintain_order=True
    )
    staff = named_ids(connection, t.staff, taught["teacher"].to_list())
    copy_in(
        connection,
        "class_staff",
        records(
            taught.height,
            batch_id=(np.int32, batch_id),
            row=(np.int32, taught["line"].to_numpy()),
            class_id=(
                np.int32,
                [classes[pair] for pair in taught.select("school", "class").rows()],
            ),
            staff_id=(np.int32, [staff[name] for name in taught["teacher"].to_list()]),
        ),
    )
    _write_courses(connection, members, classes, batch_id, version)
    return sorted(classes.values())


def _write_courses(
    connection: sa.Connection,
    members: pl.DataFrame,
    classes: dict[tuple[str, str], int],
    batch_id: int,
    version: int,
) -> None:
    """What the classes are taught; a course is a subject, new ones are made."""
    given = members.filter(pl.col("course") != "").unique(
        ["school", "class", "course"], keep="first", maintain_order=True
    )
    subjects = named_ids(connection, t.subject, given["course"].to_list(), from_version=version)
    pairs = given.select("school", "class").rows()
    copy_in(
        connection,
        "class_course",
        records(
            given.height,
            batch_id=(np.int32, batch_id),
            row=(np.int32, given["line"].to_numpy()),
            class_id=(np.int32, [classes[(school, name)] for school, name in pairs]),
            subject_id=(np.int32, [subjects[name] for name in given["course"].to_list()]),
        ),
    )

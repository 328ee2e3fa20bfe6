"""The merged record as one table per kind, tidy: for whoever goes on in tools of their own.

Each table is written as Parquet and as CSV, with a description of every column in the W3C's
metadata for CSV on the Web. Figures stand as in the answers: of the newest file that says them,
names as the district declared them.
"""

from __future__ import annotations

import io
import json
import tempfile
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from bridge_chart.output.csv import DANGEROUS
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import UNKNOWN_DAY, MeasureKey, Roll, Snapshot
from bridge_chart.terms.calendar import school_year_of

NO_ROW = STATUSES.index("no_row")
DATATYPES = {pl.String: "string", pl.Date: "date", pl.Float64: "double", pl.Int64: "integer"}
MEASURED = ["test", "subject", "sitting", "date", "school_year"]


@dataclass(frozen=True)
class Column:
    """A column of a table: its type, and what it says."""

    kind: type[pl.DataType]
    says: str


NUMBER = Column(pl.String, "The student's number, as rosters write it, leading zeros and all")
SINCE = Column(pl.Date, "The day from which the roster holds")
YEAR = Column(pl.String, "The school year, like 2025-26")
OF_MEASURE = {
    "test": Column(pl.String, "The test"),
    "subject": Column(pl.String, "The subject; blank where the test has none"),
    "sitting": Column(pl.String, "The sitting"),
    "date": Column(pl.Date, "The day of the sitting"),
    "school_year": YEAR,
}
VALUE = {
    "score": Column(pl.String, "The kind of score: raw, percent, scaled, level, grade …"),
    "value": Column(pl.Float64, "The figure; blank where it is a step, or where there is none"),
    "step": Column(pl.String, "The level or grade; blank where it is a figure"),
}
TABLES: dict[str, dict[str, Column]] = {
    "students": {
        "number": NUMBER,
        "given_name": Column(pl.String, "Given name"),
        "family_name": Column(pl.String, "Family name, or the whole name as files have it"),
        "birth_date": Column(pl.Date, "Birth date; blank where no roster says it"),
    },
    "enrolment": {
        "number": NUMBER, "school_year": YEAR, "since": SINCE,
        "school": Column(pl.String, "The school"),
        "year_level": Column(pl.Int64, "The year level; blank where the roster does not say it"),
    },
    "classes": {
        "number": NUMBER, "school_year": YEAR, "since": SINCE,
        "school": Column(pl.String, "The class's school"),
        "class": Column(pl.String, "The class"),
        "kind": Column(pl.String, "class, form (a form or tutor group) or set"),
        "teachers": Column(pl.String, "Its teachers, parted by bars"),
        "courses": Column(pl.String, "What it is taught, parted by bars"),
    },
    "characteristics": {
        "number": NUMBER, "school_year": YEAR, "since": SINCE,
        "characteristic": Column(pl.String, "The characteristic"),
        "value": Column(pl.String, "Its value"),
    },
    "results": {
        "number": NUMBER, **OF_MEASURE, **VALUE,
        "status": Column(pl.String, "sat, absent, exempt, withheld, not_sat"),
        "form": Column(pl.String, "The form of the test that was sat"),
        "tested_year_level": Column(pl.Int64, "The year level as the results say it"),
        "file": Column(pl.String, "The file that says it"),
        "line": Column(pl.Int64, "Its line in that file"),
    },
    "claims": {
        "number": NUMBER, **OF_MEASURE,
        "role": Column(pl.String, "target or predicted"),
        "kind": Column(pl.String, "Which target; blank where there is one"),
        **VALUE,
    },
    "marks": {
        "number": NUMBER, **OF_MEASURE,
        "form": Column(pl.String, "The form of the test"),
        "question": Column(pl.String, "The question"),
        "mark": Column(pl.Int64, "The marks"),
        "maximum": Column(pl.Float64, "What the question is worth; blank where nothing says it"),
        "topic": Column(pl.String, "Its topic, where a table says it"),
    },
    "credits": {
        "number": NUMBER, "school_year": YEAR,
        "standard": Column(pl.String, "The standard"),
        "title": Column(pl.String, "Its title"),
        "subject": Column(pl.String, "Its subject"),
        "level": Column(pl.String, "Its level"),
        "kind": Column(pl.String, "The kind of assessment"),
        "result": Column(pl.String, "The result"),
        "credits": Column(pl.Float64, "What the record is worth"),
        "standing": Column(pl.String, "banked or estimated"),
        "date": Column(pl.Date, "The day of the record"),
        "file": Column(pl.String, "The file that says it"),
        "line": Column(pl.Int64, "Its line in that file"),
    },
}  # fmt: skip


def write_tidy(snapshot: Snapshot, out: Path) -> dict[str, int]:
    """Write every table into a folder; give how many rows each has."""
    out.mkdir(parents=True, exist_ok=True)
    rows: dict[str, int] = {}
    for name, columns in TABLES.items():
        frame = frame_of(name, snapshot)
        frame.write_parquet(out / f"{name}.parquet")
        frame.select(_harmless(key, column.kind) for key, column in columns.items()).write_csv(
            out / f"{name}.csv"
        )
        rows[name] = frame.height
    (out / "csv-metadata.json").write_text(
        json.dumps(metadata(snapshot), ensure_ascii=False, indent=1), encoding="utf-8"
    )
    return rows


def frame_of(name: str, snapshot: Snapshot) -> pl.DataFrame:
    """One of the tables, its columns in the order and types that are described."""
    schema = {key: column.kind for key, column in TABLES[name].items()}
    parts = [
        part.select(pl.col(key).cast(kind) for key, kind in schema.items())
        for part in _of(name, snapshot)
    ]
    return pl.concat([pl.DataFrame(schema=schema), *parts])


def tidy_archive(snapshot: Snapshot) -> tuple[bytes, dict[str, int]]:
    """The tables in one ZIP archive, and how many rows each has."""
    made = io.BytesIO()
    with tempfile.TemporaryDirectory() as folder:
        rows = write_tidy(snapshot, Path(folder))
        with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
            for path in sorted(Path(folder).iterdir()):
                archive.write(path, path.name)
    return made.getvalue(), rows


def metadata(snapshot: Snapshot) -> dict[str, Any]:
    """What every column of the CSV files is, as CSV on the Web describes it."""
    return {
        "@context": "http://www.w3.org/ns/csvw",
        "dc:title": "The merged record",
        "dc:description": f"Version {snapshot.version} of the record",
        "tables": [
            {
                "url": f"{name}.csv",
                "dialect": {"header": True, "encoding": "utf-8"},
                "tableSchema": {
                    "columns": [
                        {"name": key, "titles": key, "datatype": DATATYPES[column.kind],
                         "dc:description": column.says}
                        for key, column in columns.items()
                    ],
                },
            }
            for name, columns in TABLES.items()
        ],
    }  # fmt: skip


def _harmless(key: str, kind: type[pl.DataType]) -> pl.Expr:
    """Texts that a spreadsheet would run get an apostrophe, in CSV alone."""
    cell = pl.col(key)
    if kind is not pl.String:
        return cell
    starts = pl.any_horizontal(cell.str.starts_with(sign) for sign in DANGEROUS)
    return pl.when(starts).then(pl.concat_str(pl.lit("'"), cell)).otherwise(cell).alias(key)


def _of(name: str, snapshot: Snapshot) -> Iterator[pl.DataFrame]:
    if name == "students":
        yield _students(snapshot)
    elif name in ("results", "claims"):
        for measure in snapshot.measures:
            if (measure.role == "result") == (name == "results"):
                yield _measured(snapshot, measure)
    elif name == "credits":
        yield from _credits(snapshot)
    elif name == "marks":
        for sitting in {m.sitting.id: m for m in snapshot.measures}.values():
            yield from _marks(snapshot, sitting)
    else:
        of = {"enrolment": _enrolment, "classes": _classes, "characteristics": _characteristics}
        for roll in snapshot.rolls:
            yield from of[name](snapshot, roll)


def _students(snapshot: Snapshot) -> pl.DataFrame:
    at = np.flatnonzero(np.asarray(snapshot.listed))
    days = np.asarray(snapshot.birth_days)[at].astype(np.int32)
    births = pl.Series(days).set(pl.Series(days == UNKNOWN_DAY), None).cast(pl.Date)
    return pl.DataFrame({
        "number": _texts(snapshot.numbers, at), "given_name": _texts(snapshot.given_names, at),
        "family_name": _texts(snapshot.family_names, at), "birth_date": births,
    })  # fmt: skip


def _texts(column: Any, at: Any) -> list[str]:
    return [str(text) for text in np.asarray(column)[at]]


def _on_roll(snapshot: Snapshot, roll: Roll, at: Any) -> dict[str, Any]:
    return {"number": _texts(snapshot.numbers, at), "school_year": roll.academic_year,
            "since": roll.since}  # fmt: skip


def _enrolment(snapshot: Snapshot, roll: Roll) -> Iterator[pl.DataFrame]:
    at = np.flatnonzero(np.asarray(roll.school) >= 0)
    names = np.array([school.name for school in snapshot.schools] or [""], object)
    levels = np.asarray(roll.year_level)[at].astype(np.int64)
    known = pl.Series(levels).set(pl.Series(levels < 0), None)
    schools = names[np.asarray(roll.school)[at]].tolist()
    yield pl.DataFrame({**_on_roll(snapshot, roll, at), "school": schools, "year_level": known})


def _classes(snapshot: Snapshot, roll: Roll) -> Iterator[pl.DataFrame]:
    places = {school.id: school.name for school in snapshot.schools}
    students, held = np.asarray(roll.members).T
    told = [
        (places.get(c.school_id, ""), c.name, "|".join(c.kinds),
         "|".join(snapshot.staff[t] for t in c.teachers), "|".join(c.courses))
        for c in snapshot.classes
    ]  # fmt: skip
    keys = ("school", "class", "kind", "teachers", "courses")
    columns = {key: [told[c][n] for c in held.tolist()] for n, key in enumerate(keys)}
    yield pl.DataFrame({**_on_roll(snapshot, roll, students), **columns})


def _characteristics(snapshot: Snapshot, roll: Roll) -> Iterator[pl.DataFrame]:
    for item in snapshot.characteristics:
        codes = np.asarray(roll.characteristic(item.id, snapshot.students))
        at = np.flatnonzero(codes >= 0)
        options = np.array([option.name for option in item.options] or [""], object)
        yield pl.DataFrame({
            **_on_roll(snapshot, roll, at), "characteristic": item.name,
            "value": options[codes[at]].tolist(),
        })  # fmt: skip


def _about(measure: MeasureKey) -> dict[str, Any]:
    subject = measure.subject.name if measure.subject else ""
    return dict(zip(MEASURED, (measure.assessment.name, subject, measure.sitting.name,
                               measure.date, measure.academic_year), strict=True))  # fmt: skip


def _measured(snapshot: Snapshot, measure: MeasureKey) -> pl.DataFrame:
    """Everybody with a row in a measure: a figure or a step, or the reason why there is none."""
    values = np.asarray(snapshot.values(measure))
    held = ~np.isnan(values)
    status = np.asarray(snapshot.status(measure))
    at = np.flatnonzero(held if measure.role != "result" else held | (status != NO_ROW))
    figures = pl.Series(values[at]).fill_nan(None)
    blank = pl.Series([None], dtype=pl.Float64).new_from_index(0, len(at))
    steps = [measure.steps[int(v) - 1] if measure.steps and v == v else "" for v in values[at]]
    forms = {form.id: form.name for form in measure.forms}
    batch, line = (np.asarray(column)[at] for column in snapshot.origin(measure))
    levels = np.asarray(snapshot.tested_year_level(measure))[at].astype(np.int64)
    return pl.DataFrame({
        "number": _texts(snapshot.numbers, at), **_about(measure), "score": measure.score,
        "value": blank if measure.steps else figures, "step": steps,
        "status": [STATUSES[code] for code in status[at].tolist()],
        "form": [forms.get(int(form), "") for form in np.asarray(snapshot.form(measure))[at]],
        "tested_year_level": pl.Series(levels).set(pl.Series(levels < 0), None),
        "file": [snapshot.files.get(int(one), "") for one in batch],
        "line": line.astype(np.int64), "role": measure.role, "kind": measure.kind,
    })  # fmt: skip


def _credits(snapshot: Snapshot) -> Iterator[pl.DataFrame]:
    """Every credit record that holds, by student, standard and date."""
    kept = snapshot.credits
    if kept is None:
        return
    texts = {
        name: np.array([*names, ""], object)[np.asarray(kept.codes[name])].tolist()
        for name, names in kept.names.items()
    }
    days = pl.Series(np.asarray(kept.day).astype(np.int32)).cast(pl.Date)
    yield pl.DataFrame({
        "number": _texts(snapshot.numbers, kept.student), **texts,
        "school_year": [school_year_of(day) for day in days.to_list()],
        "credits": np.asarray(kept.credits) / kept.parts,
        "standing": ["banked" if sure else "estimated" for sure in np.asarray(kept.banked)],
        "date": days,
        "file": [snapshot.files.get(int(one), "") for one in np.asarray(kept.batch)],
        "line": np.asarray(kept.line).astype(np.int64),
    })  # fmt: skip


def _marks(snapshot: Snapshot, measure: MeasureKey) -> Iterator[pl.DataFrame]:
    forms = {form.id: form.name for form in measure.forms}
    subject = measure.subject.name if measure.subject else None
    for paper in snapshot.marked_forms(measure.sitting.id):
        form = forms.get(paper.form or 0, "")
        told = snapshot.tables.questions(
            measure.assessment.name, subject, measure.sitting.name, form
        )
        numbers = np.asarray(snapshot.numbers)[np.asarray(paper.at)]
        for n, question in enumerate(paper.questions):
            marks = np.asarray(paper.marks)[:, n]
            there = marks >= 0
            info = told.get(question.casefold())
            yield pl.DataFrame({
                "number": [str(number) for number in numbers[there]], **_about(measure),
                "form": form, "question": question, "mark": marks[there].astype(np.int64),
                "maximum": None if info is None else info.maximum,
                "topic": "" if info is None else info.tags.get("topic", ""),
            })  # fmt: skip

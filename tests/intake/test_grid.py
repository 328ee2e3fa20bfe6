"""The grid of students by results: out to a spreadsheet, back, and what changed on the way."""

from __future__ import annotations

import io

import pytest
from python_calamine import CalamineWorkbook
from tests.support import Place

from bridge_chart.intake.columns.headings import Known, read_heading
from bridge_chart.intake.drafts.grid import grid_of, typed
from bridge_chart.output.grid import to_csv, to_xlsx
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.grid import Grid, GridColumn, GridRow, GridSpec, read_header

ROSTER = "No,Name,School,Class,Year\n" + "".join(
    f"{n:04d},Pupil {n},Tarn,8{'A' if n < 4 else 'B'},8\n" for n in range(1, 7)
)
SCORES = "No,Subject,Mark,Grade\n" + "".join(
    f"{n:04d},{subject},{10 * n},{'CBA'[(n - 1) // 2]}\n"
    for n in range(1, 7)
    for subject in ("Maths", "Reading")
)
MARK = {"test": "Spring survey", "sitting": "spring 2026"}


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", ROSTER, academic_year="2025-26")
    place.bring("results", SCORES, name="Spring survey.csv", sitting="spring 2026")
    return place


def spec(*columns: dict[str, str], **who: object) -> GridSpec:
    return GridSpec.model_validate({"columns": [{**MARK, **c} for c in columns], **who})


BOTH = ({"subject": "Maths", "role": "raw"}, {"subject": "Reading", "role": "grade"})


def made(place: Place, *columns: dict[str, str], **who: object) -> Grid:
    return grid_of(place.snapshot, spec(*(columns or BOTH), **who))


def test_the_grid_shows_what_is_kept(tarn: Place) -> None:
    grid = made(tarn)
    assert [row.number for row in grid.rows] == [f"{n:04d}" for n in range(1, 7)]
    assert grid.rows[0].cells == ["10", "C"]
    assert grid.headers[0] == "Spring survey: Maths, spring 2026 (raw mark)"
    assert grid.allowed[1].steps == ["C", "B", "A"]


def test_a_class_or_a_year_level_alone(tarn: Place) -> None:
    classes = {c.name: c.id for c in tarn.snapshot.classes}
    assert len(made(tarn, class_id=classes["8A"]).rows) == 3
    assert len(made(tarn, year_level=8).rows) == 6
    with pytest.raises(InvalidQuestion, match="would hold 0"):
        made(tarn, year_level=9)


@pytest.mark.parametrize("format_", ["xlsx", "csv"])
def test_it_comes_back_with_only_the_changed_cells_changed(tarn: Place, format_: str) -> None:
    grid = made(tarn)
    changed = grid.model_copy(deep=True)
    changed.rows[2].cells = ["31", "A"]
    data = to_xlsx(changed) if format_ == "xlsx" else to_csv(changed)
    plan = tarn.look("results", data, name=f"grid.{format_}")
    counts = {c.key: c.n for c in plan.examination.counts}
    assert (counts["new"], counts["changed"], counts["same"]) == (0, 2, 10)
    told = [(c.number, c.what, c.before, c.after) for c in plan.examination.changes]
    assert told == [
        ("0003", "Maths, spring 2026", "30", "31"),
        ("0003", "Reading, spring 2026", "B", "A"),
    ]
    assert not plan.examination.unsettled
    assert not plan.examination.creates


def test_the_workbook_keeps_zeros_and_runs_nothing(tarn: Place) -> None:
    grid = made(tarn)
    grid.rows[0].name = "=HYPERLINK(1)"
    rows = CalamineWorkbook.from_filelike(io.BytesIO(to_xlsx(grid))).get_sheet_by_index(0)
    assert rows.to_python()[1][:2] == ["0001", "=HYPERLINK(1)"]
    assert b"'=HYPERLINK(1)" in to_csv(grid)


def test_what_is_typed_comes_in_as_a_file(tarn: Place) -> None:
    columns = (
        {"subject": "Art", "test": "Judgement", "role": "grade"},
        {"subject": "Art", "test": "Judgement", "role": "target", "kind": "floor"},
    )
    rows = [
        GridRow(number="0001", name="Pupil 1", cells=["A", "B"]),
        GridRow(number="0002", name="Pupil 2", cells=["", "C"]),
    ]
    file = typed(spec(*columns), "Class 8A", rows)
    assert file.name == "Class 8A typed.csv"
    plan = tarn.bring("results", file.data, name=file.name, **file.said.model_dump())
    assert plan.examination.rows_kept == 2
    assert tarn.scalar("SELECT count(*) FROM claim") == 2
    after = grid_of(tarn.snapshot, spec(*columns))
    assert after.rows[0].cells == ["A", "B"]
    assert after.rows[1].cells == ["", "C"]


def test_a_header_comes_apart_as_it_was_put_together() -> None:
    column = GridColumn(test="T", sitting="s", role="target", kind="floor")
    assert column.header == "T: s (floor target)"
    told = read_heading(column.header, Known())
    assert (told.role, told.about.test, told.about.sitting) == ("target:floor", "T", "s")
    assert told.known


@pytest.mark.parametrize(
    "name", ["Unit 3: Forces", "May, first", "A (b)", "“Q”", "a”:b", "x: y, z (grade)"]
)
def test_a_header_comes_apart_whatever_things_are_called(name: str) -> None:
    for part in ("test", "subject", "sitting", "kind"):
        column = GridColumn.model_validate(
            {
                "test": "T",
                "subject": "S",
                "sitting": "s",
                "kind": "floor",
                "role": "target",
                part: name,
            }
        )
        assert read_header(column.header) == column


def test_a_grid_of_a_new_test_comes_back_filled(tarn: Place) -> None:
    grid = made(tarn, {"test": "Mock", "subject": "Art", "sitting": "June", "role": "percent"})
    empty = tarn.look("results", to_csv(grid), name="grid.csv")
    assert (empty.examination.rows_kept, empty.examination.rows_set_aside) == (0, 0)
    grid.rows[1].cells = ["85"]
    plan = tarn.look("results", to_xlsx(grid), name="grid.xlsx")
    assert [(s.test, s.subject, s.name) for s in plan.sittings] == [("Mock", "Art", "June")]
    assert plan.examination.rows_kept == 1

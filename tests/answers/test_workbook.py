"""An answer taken out as a workbook: what its cells hold is what the answer says."""

from __future__ import annotations

import datetime as dt
import io
import re
import zipfile
from typing import Any

import pytest
from python_calamine import CalamineWorkbook
from tests.support import Place, serving, signed_in

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.asking.answer import Answer, lines_of
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.asking.book import book_of, views_beside
from bridge_chart.output import workbook
from bridge_chart.output.workbook import SHADES, SIGNS, Page, to_workbook
from bridge_chart.terms.errors import InvalidQuestion

NOW = dt.datetime(2026, 3, 2, 9, 30)
SPANS = {"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}],
         "against": {"group": {"who": {"all": [{"field": "school", "in": ["Ash"]}]}}}}  # fmt: skip


@pytest.fixture
def two(place: Place) -> Place:
    rows = [f"{s}{n:02d},{('Ash', '=Elm')[s]},7,=cmd{n}" for s in (0, 1) for n in range(20)]
    text = "\n".join(["Number,School,Year,Forename", *rows]) + "\n"
    place.bring("roster", text, academic_year="2025-26")
    marks = [f"{s}{n:02d},{50 + n + 20 * s}" for s in (0, 1) for n in range(19)]
    place.bring("results", "\n".join(["Number,Score", *marks]) + "\n", test="Quiz",
                sitting="autumn", date="2025-10-10")  # fmt: skip
    return place


def sheet_of(book: bytes, name: str | int) -> dict[str, list[Any]]:
    """A sheet's columns by their heads, blanks as None."""
    made = CalamineWorkbook.from_filelike(io.BytesIO(book))
    sheet = made.get_sheet_by_name(name) if isinstance(name, str) else made.get_sheet_by_index(name)
    heads, *lines = sheet.to_python(skip_empty_area=False)
    cells = [[None if cell == "" else cell for cell in line] for line in lines]
    return {str(head): [line[at] for line in cells] for at, head in enumerate(heads)}


def test_a_workbook_has_a_sheet_for_each_view_that_can_serve(two: Place) -> None:
    question = read_question({"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}]})
    beside = views_beside(two.engine, two.settings, OPERATOR, question)
    assert [one.body.show for one in beside] == ["spread"]
    book = book_of(asked(two), "Ailsa", NOW, beside)
    sheets = CalamineWorkbook.from_filelike(io.BytesIO(book)).sheet_names
    assert [name.split()[0] for name in sheets] == ["Notes", "spans", "spread"]
    listed = question.model_copy(update={"show": "students", "split": ()})
    assert views_beside(two.engine, two.settings, OPERATOR, listed) == []


def test_cells_are_shaded_as_on_screen() -> None:
    page = Page("List", ["name", "score"], [["Bo", 40.0], ["Zoë", 90.0]], [[None, -1], [None, 2]])
    with zipfile.ZipFile(io.BytesIO(to_workbook("t", [], [page]))) as archive:
        styles = archive.read("xl/styles.xml").decode()
        sheet = archive.read("xl/worksheets/sheet2.xml").decode()
    assert SHADES[-1].strip("#").upper() in styles.upper()
    styled = re.findall(r'<c r="B([23])" s="(\d+)"', sheet)
    assert len({style for _, style in styled}) == 2


def test_under_a_list_stands_what_its_columns_come_to(two: Place) -> None:
    quiz = {"assessment": "Quiz"}
    listed = two.ask({"what": [quiz], "show": "students", "columns": [{"measure": quiz}],
                      "split": [{"field": "school"}]})  # fmt: skip
    frame = sheet_of(book_of(listed, "Ailsa", NOW), 1)
    first = next(iter(frame.values()))
    score = frame["Quiz, autumn"]
    at = {str(name): n for n, name in enumerate(first) if isinstance(name, str)}
    # Elm has 70 to 88, Ash 50 to 68; one of each has none.
    assert [score[at[f"{who}: mean"]] for who in ("Ash", "=Elm", "all")] == [59, 79, 69]
    assert [score[at[f"{who}: n"]] for who in ("Ash", "=Elm", "all")] == [19, 19, 38]
    assert [score[at[f"{who}: missing"]] for who in ("Ash", "=Elm", "all")] == [1, 1, 2]
    assert score[at["all: mean, 95% from"]] < 69 < score[at["all: mean, 95% to"]]
    assert set(frame["under"][:40]) == {"Ash", "=Elm"}
    # A blank line keeps the list apart from it, so that sorting the one leaves the other.
    assert first[40] is None


def test_levels_are_drawn_as_stacked_shares(demo: Place) -> None:
    survey = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
    levels = demo.ask({"show": "levels", "split": [{"field": "school"}], "what": [survey]})
    with zipfile.ZipFile(io.BytesIO(book_of(levels, "Ailsa", NOW))) as archive:
        chart = archive.read("xl/charts/chart1.xml").decode()
    assert 'val="stacked"' in chart
    assert chart.count("<c:ser>") == len(levels.body.steps)
    assert len(set(re.findall(r'srgbClr val="(\w{6})"/></a:solidFill><a:ln', chart))) == len(
        levels.body.steps
    )


def asked(place: Place) -> Answer:
    return place.ask(SPANS)


def test_every_figure_is_in_its_cell_and_verdicts_carry_their_sign(two: Place) -> None:
    answer = asked(two)
    heads, lines = lines_of(answer)
    frame = sheet_of(book_of(answer, "Ailsa", NOW), 1)
    assert list(frame)[: len(heads)] == [str(head) for head in heads]
    for at, head in enumerate(heads):
        shown, meant = frame[str(head)], [line[at] for line in lines]
        if head == "verdict":
            assert [str(cell).split(" ")[1] for cell in shown if cell and " " in cell] == [
                verdict for verdict in meant if verdict in SIGNS
            ]
        elif head in ("n", "mean", "span", "low", "high", "p"):
            assert [x for x in shown if x is not None] == pytest.approx(
                [x for x in meant if x is not None]
            )


def test_notes_say_question_counts_method_and_origin(two: Place) -> None:
    answer = asked(two)
    notes = sheet_of(book_of(answer, "Ailsa", NOW), "Notes")
    ((title, cells),) = notes.items()
    text = "\n".join([title, *map(str, cells)])
    assert answer.sentence in text
    assert "38 of 40 counted" in text
    assert "Taken out by Ailsa on 2026-03-02 at 09:30" in text
    assert "▲  ahead: ahead by more than chance would give" in text
    assert f"Version {answer.resolved.version} of the record" in text


def test_nothing_of_a_file_becomes_a_formula_or_a_link(two: Place) -> None:
    students = two.ask({"what": [{"assessment": "Quiz"}], "show": "students"})
    book = book_of(students, "=HYPERLINK(1)", NOW)
    with zipfile.ZipFile(io.BytesIO(book)) as archive:
        sheets = [n for n in archive.namelist() if n.startswith("xl/worksheets/")]
        text = "".join(archive.read(name).decode() for name in sheets)
    assert "<f>" not in text
    assert "hyperlink" not in text.lower().replace("=hyperlink(1)", "")
    frame = sheet_of(book, 1)
    assert any(str(cell).startswith("=cmd") for column in frame.values() for cell in column)


def test_a_page_of_spans_has_a_chart_with_its_intervals(two: Place) -> None:
    with zipfile.ZipFile(io.BytesIO(book_of(asked(two), "A", NOW))) as archive:
        chart = archive.read("xl/charts/chart1.xml").decode()
    assert "<c:errBars>" in chart
    assert "from low" not in chart


def test_many_rows_are_written_without_being_held(two: Place) -> None:
    def lines() -> object:
        for n in range(30_000):
            yield [f"Row {n}", n, n / 7, "2026-03-02"]

    heads = ["label", "n", "value", "day"]
    book = to_workbook("Many", [], [Page("Many", heads, lines())])  # type: ignore[arg-type]
    frame = sheet_of(book, "Many")
    assert len(frame["n"]) == 30_000
    assert sum(frame["value"]) == pytest.approx(sum(n / 7 for n in range(30_000)))
    assert set(frame["day"]) == {dt.date(2026, 3, 2)}


def test_over_http_in_the_askers_scope_and_noted(two: Place) -> None:
    two.account("rowan", "school_lead", "Ash")
    with signed_in(two, "rowan") as client:
        answer = client.post("/api/exports/workbook", json={"what": [{"assessment": "Quiz"}],
                             "show": "students"})  # fmt: skip
        assert answer.status_code == 200
        assert answer.mimetype.endswith("spreadsheetml.sheet")
        frame = sheet_of(answer.data, 1)
        assert frame["School"].index(None) == 20
    assert two.scalar("SELECT detail->>'as' FROM audit WHERE action = 'export'") == "workbook"
    with serving(two) as app:
        assert app.test_client().post("/api/exports/workbook", json=SPANS).status_code == 401


def test_more_rows_than_a_sheet_holds_are_refused_in_words(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workbook, "MOST_ROWS", 3)
    with pytest.raises(InvalidQuestion, match="A sheet holds 2 rows at most"):
        to_workbook("Many", [], [Page("Many", ["n"], [[1], [2], [3]])])

"""Credit records: matched like results, one of a student and standard, banked or estimated."""

from __future__ import annotations

import pytest
import sqlalchemy as sa
from tests.cli.test_command_line import write
from tests.cli.warm import command
from tests.support import Place, roster

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.drafts.kept_files import file_lines, set_aside_rows
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.intake.keep.undoing import consequences
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.finding import Finding

HEAD = "Number,Standard,Subject,Level,Kind,Credits,Result,Banked,Date\n"
RECORDS = (
    HEAD
    + """001,E1,English,2,internal,4,Merit,banked,2026-03-20
002,E1,English,2,internal,4,Achieved,,2026-03-20
002,M1,Mathematics,1,external,"5,5",Merit,estimated,2026-05-04
003,M1,Mathematics,1,external,5,Achieved,yes,2026-05-04
"""
)


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", roster([(f"00{n}", "Tarn", 11) for n in range(1, 5)]),
                academic_year="2025-26")  # fmt: skip
    return place


def found(place: Place, text: str, **said: object) -> dict[str, Finding]:
    return {f.key: f for f in place.look("credits", text, **said).examination.findings}


def kept(place: Place) -> list[tuple[object, ...]]:
    query = sa.text(
        "SELECT number, standard, credits, estimated, result, row FROM credit "
        "JOIN student ON student.id = student_id ORDER BY row"
    )
    with place.engine.connect() as connection:
        return [tuple(row) for row in connection.execute(query)]


def test_records_are_kept_as_they_stand(tarn: Place) -> None:
    plan = tarn.bring("credits", RECORDS, "credits.csv")
    assert kept(tarn) == [
        ("001", "E1", 4.0, False, "Merit", 2), ("002", "E1", 4.0, False, "Achieved", 3),
        ("002", "M1", 5.5, True, "Merit", 4), ("003", "M1", 5.0, True, "Achieved", 5),
    ]  # fmt: skip
    shown = plan.examination
    assert {c.key: c.n for c in shown.counts} == {
        "records": 4, "students": 3, "standards": 2, "banked": 8, "estimated": 10, "set_aside": 0
    }  # fmt: skip
    assert shown.title == "Credits in English and Mathematics"
    assert shown.picture is not None
    assert (shown.picture.left_total, shown.picture.left_unmatched) == (4, 1)
    assert file_lines(tarn.engine, 2, [4])[1] == [
        (4, ["002", "M1", "Mathematics", "1", "external", "5,5", "Merit", "estimated",
             "2026-05-04"])
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("row", "key"),
    [
        ("001,,English,2,internal,4,Merit,,", "no_standard"),
        ("001,E9,English,2,internal,four,Merit,,", "bad_credits"),
        ("001,E9,English,2,internal,-4,Merit,,", "bad_credits"),
        ("001,E9,English,2,internal,4000,Merit,,", "bad_credits"),
        ("001,E9,English,2,internal,4,Merit,perhaps,", "unknown_standing"),
        ("999,E9,English,2,internal,4,Merit,,", "no_student"),
        (",E9,English,2,internal,4,Merit,,", "no_number"),
    ],
)
def test_what_cannot_be_a_record_is_set_aside_and_settled_later(
    tarn: Place, row: str, key: str
) -> None:
    text = RECORDS + row + "\n"
    assert (found(tarn, text)[key].kind, found(tarn, text)[key].rows) == ("stop", [6])
    tarn.bring("credits", text)
    assert len(kept(tarn)) == 4
    assert [aside["row"] for aside in set_aside_rows(tarn.engine, 2)] == [6]


def test_two_records_of_one_standard_are_settled_and_an_estimate_stands_beside(
    tarn: Place,
) -> None:
    text = RECORDS + "001,E1,English,2,internal,4,Excellence,,2026-03-20\n"
    text += "001,E1,English,2,internal,4,Merit,estimated,2026-01-01\n" + text.splitlines()[1] + "\n"
    stops = found(tarn, text)
    assert [(d.key, [r.says for r in d.rows]) for d in stops["two_records"].doubles] == [
        ("001, E1", ["4 credits, Merit (2026-03-20)", "4 credits, Excellence (2026-03-20)"])
    ]
    assert stops["copies"].rows == [8]
    tarn.bring("credits", text, decisions={"two_records": "last"})
    mine = [(r[3], r[4]) for r in kept(tarn) if r[:2] == ("001", "E1")]
    assert mine == [(False, "Excellence"), (True, "Merit")]


def test_a_standard_may_be_sat_again_on_another_day(tarn: Place) -> None:
    text = RECORDS + "001,E1,English,2,internal,4,Excellence,,2026-06-01\n"
    assert "two_records" not in found(tarn, text)
    tarn.bring("credits", text)
    held = [(r[3], r[4]) for r in kept(tarn) if r[:2] == ("001", "E1")]
    assert held == [(False, "Merit"), (False, "Excellence")]


def test_columns_and_a_roster_are_needed(tarn: Place, place: Place) -> None:
    with pytest.raises(UnreadableFile, match="a column with the credits"):
        tarn.look("credits", "Number,Standard\n001,E1\n")
    with pytest.raises(UnreadableFile, match="student numbers"):
        tarn.look("credits", "Standard,Credits\nE1,4\n")


def test_without_a_roster_nothing_can_be_matched(place: Place) -> None:
    with pytest.raises(UnreadableFile, match="no roster yet"):
        place.look("credits", RECORDS)


def test_records_are_undone_with_their_file(tarn: Place) -> None:
    tarn.bring("credits", RECORDS)
    assert consequences(tarn.engine, 2) == []
    done = change_standing(tarn.engine, tarn.settings, OPERATOR, 2, "undone")
    assert done.version == 3


def test_records_come_in_on_the_command_line(tarn: Place) -> None:
    path = write(tarn, "credits.csv", RECORDS)
    done = command(tarn.settings.home, "import", "credits", path)
    assert done.returncode == 0, done.stderr
    assert "4 of 4 rows kept" in done.stdout
    assert "Credits banked: 8" in done.stdout

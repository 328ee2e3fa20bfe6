"""Two rows about one and the same: by a rule, by date, one by one, and never dropped."""

from __future__ import annotations

import pytest
from tests.support import Place, roster

from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.finding import Double, Finding

TWICE = """Number,Test,Subject,Date,Score
01,Quiz,Reading,2026-05-04,5
01,Quiz,Reading,2026-05-11,9
02,Quiz,Reading,2026-05-11,7
02,Quiz,Reading,2026-05-04,8
03,Quiz,Reading,2026-05-04,6
"""
YEAR = {"academic_year": "2025-26"}


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", roster([("01", "Tarn", 7), ("02", "Tarn", 7), ("03", "Tarn", 7)]), **YEAR)
    return place


def doubled(place: Place, text: str = TWICE, kind: str = "results", **decisions: str) -> Finding:
    plan = place.look(kind, text, decisions=decisions, **(YEAR if kind == "roster" else {}))
    return next(f for f in plan.examination.findings if f.key in ("two_scores", "two_rows"))


def scores(place: Place, text: str, **decisions: str) -> dict[str, float]:
    place.bring("results", text, "twice.csv", decisions=decisions)
    question = {"what": [{"assessment": "Quiz"}], "show": "students", "page": {"size": 1000}}
    body = place.ask(question).body
    shown = {column.key: column.values for column in body.columns}
    return {n: s for n, s in zip(shown["number"], shown["score"], strict=True) if s is not None}


def test_each_double_is_named_with_what_its_rows_say(tarn: Place) -> None:
    found = doubled(tarn)
    assert found.unsettled
    assert [c.key for c in found.choices] == ["first", "last", "later", "higher", "set_aside"]
    first, second = found.doubles
    assert first == Double.model_validate(
        {"key": "01",
         "rows": [{"line": 2, "says": "5 (2026-05-04)"}, {"line": 3, "says": "9 (2026-05-11)"}]}
    )  # fmt: skip
    assert [row.line for row in second.rows] == [4, 5]


@pytest.mark.parametrize(
    ("rule", "expected"),
    [("first", (5, 7)), ("last", (9, 8)), ("later", (9, 7)), ("higher", (9, 8))],
)
def test_a_rule_settles_all(tarn: Place, rule: str, expected: tuple[float, float]) -> None:
    kept = scores(tarn, TWICE, two_scores=rule)
    assert kept == {"01": expected[0], "02": expected[1], "03": 6}
    assert tarn.scalar("SELECT count(*) FROM set_aside") == 2


def test_one_by_one_goes_before_the_rule_and_settles_where_all_are_said(tarn: Place) -> None:
    one = {"two_scores:01": "2"}
    assert doubled(tarn, **one).unsettled  # the other is open
    by_rule = doubled(tarn, **one, two_scores="last")
    assert (by_rule.chosen, by_rule.doubles[0].chosen) == ("last", "2")
    both = one | {"two_scores:02": "set_aside"}
    settled = doubled(tarn, **both)
    assert (settled.chosen, settled.unsettled) == ("each", False)
    assert scores(tarn, TWICE, **both) == {"01": 5, "03": 6}
    assert tarn.scalar("SELECT string_agg(row::text, ',' ORDER BY row) FROM set_aside") == "3,4,5"


def test_what_is_no_line_of_the_double_is_refused(tarn: Place) -> None:
    with pytest.raises(InvalidQuestion, match="“6” is no choice") as refused:
        doubled(tarn, **{"two_scores:01": "6"})
    assert "lines 2, 3" in refused.value.next_step


def test_dates_are_no_rule_where_they_do_not_tell_rows_apart(tarn: Place) -> None:
    same_day = TWICE.replace("2026-05-11", "2026-05-04")
    assert "later" not in [c.key for c in doubled(tarn, same_day).choices]
    with pytest.raises(InvalidQuestion, match="“later” is no choice"):
        doubled(tarn, same_day, two_scores="later")


def test_a_roster_says_in_what_its_rows_differ(place: Place) -> None:
    text = (
        "Number,School,Year level,Sex\n01,Tarn,7,f\n01,Netherby,7,f\n02,Tarn,8,m\n"
        "02,Tarn,8,\n02,Tarn,8,m\n"
    )
    found = doubled(place, text, "roster")
    assert [(d.key, [(r.line, r.says) for r in d.rows]) for d in found.doubles] == [
        ("01", [(2, "school Tarn"), (3, "school Netherby")]),
        ("02", [(4, "Sex m"), (5, "Sex blank")]),
    ]
    plan = place.bring(
        "roster", text, **YEAR, decisions={"two_rows:01": "3", "two_rows:02": "set_aside"}
    )
    assert plan.examination.rows_set_aside == 3
    assert (plan.examination.rows_copies, plan.examination.rows_kept) == (1, 1)
    assert plan.rows["school"].to_list() == ["Netherby"]  # type: ignore[union-attr]


def test_of_very_many_doubles_the_first_are_listed_and_any_can_be_said(place: Place) -> None:
    numbers = [f"{n:04d}" for n in range(1, 301)]
    place.bring("roster", roster([(n, "Tarn", 7) for n in numbers]), **YEAR)
    lines = [f"{n},Quiz,{score}" for score in (3, 4) for n in numbers]
    text = "Number,Test,Score\n" + "\n".join(lines) + "\n"
    said = {"two_scores": "first", "two_scores:0300": "601"}
    found = doubled(place, text, **said)
    assert (found.n, len(found.doubles)) == (300, 100)
    kept = scores(place, text, **said)
    assert (kept["0001"], kept["0300"], len(kept)) == (3, 4, 300)


def test_in_a_wide_sheet_each_subject_is_settled_for_itself(tarn: Place) -> None:
    wide = "Number,Reading mark,Writing mark\n01,5,6\n01,7,6\n02,8,9\n"
    said = {"two_scores:01, file, Reading, 2025-26": "3"}
    found = doubled(tarn, wide, **said)
    assert [(d.key, d.chosen) for d in found.doubles] == [("01, file, Reading, 2025-26", "3")]
    plan = tarn.bring("results", wide, decisions=said)
    assert plan.examination.rows_kept == 4

"""A question looked at closely: what was chosen and written as the files have it, the planted wrong
key found, corrected and undone, own students only; boundaries, standards, papers, one student."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np
import polars as pl
import pytest
from tests.answers.test_items import BESIDE, body, of_class
from tests.support import Place, copy_of, forget_place, planted, roster

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.beside.catalogue import catalogue
from bridge_chart.answers.person.student import student_of_number, student_page
from bridge_chart.answers.shows.items.looked_body import Looked
from bridge_chart.answers.shows.spread.body import SpreadBody
from bridge_chart.answers.what.texts import plain
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import InvalidQuestion, NotFound

FORM_B = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "B"}
WHOLE = {"show": "items", "what": [FORM_B]}
PAPERS = {"show": "items", "what": [{"assessment": "Harbour certificate", "subject": "Science"}],
          "options": {"by": "paper", "order": "paper"}}  # fmt: skip


def looked(place: Place, question: dict[str, Any], row: str, **more: Any) -> Looked:
    found = body(place.ask({**question, "options": {"look": row}}, **more)).looked
    assert found is not None
    return found


@pytest.fixture(scope="module")
def files(demo: Place) -> pl.DataFrame:
    """Answers of form A with the class of April, a line each."""
    folder = demo.settings.home / "demo"
    roster = pl.read_csv(folder / "roster-2025-26.csv", infer_schema=False)
    rows = pl.read_csv(folder / "check-winter-answers.csv", infer_schema=False)
    return rows.filter(pl.col("Form") == "A").join(
        roster, left_on="Student No", right_on="Student number"
    )


def of(files: pl.DataFrame, name: str, question: str) -> pl.DataFrame:
    mine = (pl.col("School") == "Netherby") & (pl.col("Class") == name)
    return files.filter(mine & (pl.col("Question") == question))


def test_what_each_class_chose_is_what_its_file_says(demo: Place, files: pl.DataFrame) -> None:
    found = looked(demo, BESIDE, "Q8")
    assert found.title == "Dividing by a half"
    for at, name in enumerate(("8B", "8A")):
        chosen = Counter(of(files, name, "Q8")["Option"].to_list())
        told = {row.option: row.shares[at].n for row in found.options}
        told.pop("none chosen", None)
        assert told == {letter: chosen.get(letter, 0) for letter in "ABCD"}
        size = body(demo.ask(BESIDE)).groups[at].n
        assert sum(row.shares[at].n for row in found.options) == size
    assert [row.option for row in found.options if row.right] == ["B"]
    assert found.options[1].says == "6 ÷ ½ = 12"
    right = found.options[1].thirds
    low, _, best = right
    assert low.high is not None
    assert best.share is not None
    assert low.high < best.share
    share = found.options[1].shares[0]
    assert (share.low, share.high) == pytest.approx(
        wilson_by_hand(share.n, body(demo.ask(BESIDE)).groups[0].n)
    )


def wilson_by_hand(count: int, n: int) -> tuple[float, float]:
    """The shares whose test statistic is just z, by halving."""

    def end(low: float, high: float, above: bool) -> float:
        for _ in range(60):
            middle = (low + high) / 2
            away = (count / n - middle) / (middle * (1 - middle) / n) ** 0.5
            outside = abs(away) > 1.959963984540054
            low, high = (middle, high) if outside != above else (low, middle)
        return low

    return end(1e-9, count / n, False), end(count / n, 1 - 1e-9, True)


def test_every_option_opens_who_chose_it(demo: Place, files: pl.DataFrame) -> None:
    question = {**BESIDE, "options": {"look": "Q8"}}
    numbers = dict(zip(demo.snapshot.student_ids.tolist(), demo.snapshot.numbers, strict=True))
    for row in looked(demo, BESIDE, "Q8").options:
        one = row.shares[0]
        if row.option == "none chosen" or not one.n:
            continue
        opened = demo.opened(question, one.opens)
        chose = of(files, "8B", "Q8").filter(pl.col("Option") == row.option)["Student No"]
        assert {numbers[n] for n in opened.body.student} == set(chose.to_list())


def test_what_was_written_is_counted_and_like_texts_are_one(
    demo: Place, files: pl.DataFrame
) -> None:
    found = looked(demo, BESIDE, "Q8")
    for at, name in enumerate(("8B", "8A")):
        texts = [text for text in of(files, name, "Q8")["Explanation"].to_list() if text]
        kinds = Counter(plain(text) for text in texts)
        assert found.written[at].n == len(texts)
        assert {(plain(one.text), one.n) for one in found.written[at].texts} == set(kinds.items())


def test_the_same_question_elsewhere(demo: Place) -> None:
    elsewhere = looked(demo, BESIDE, "Q8").elsewhere
    assert [one.label for one in elsewhere] == [
        "winter 2026, form B", "autumn 2025, form A", "autumn 2025, form B",
    ]  # fmt: skip
    grid = pl.read_csv(demo.settings.home / "demo" / "check-autumn.csv", infer_schema=False)
    mine = grid.filter(pl.col("Form") == "A")
    marks = [float(mark or 0) for mark in mine["Q8"].to_list()]
    assert elsewhere[1].share == pytest.approx(np.mean(marks), abs=0.02)


def test_a_row_that_is_not_there_is_said(demo: Place) -> None:
    with pytest.raises(InvalidQuestion, match="no question “Q99”"):
        demo.ask({**BESIDE, "options": {"look": "Q99"}})


@pytest.fixture(scope="module")
def changed(cluster: Settings, demo: Place) -> Iterator[Place]:
    place = copy_of(cluster, demo)
    yield place
    forget_place(place)


def test_the_planted_wrong_key_is_found_corrected_and_comes_back_with_undo(changed: Place) -> None:
    form, question, _ = planted(changed)["truth"]["check_questions"]["wrong_key"]  # type: ignore[index]
    answer = changed.ask(WHOLE)
    doubted = [row.label for row in body(answer).rows if row.again]
    assert doubted == [question]
    assert answer.readings[0].text.startswith(f"{question}: Of the best third")
    before = looked(changed, WHOLE, question)
    assert before.instead
    total = {"what": [{**FORM_B, "score": "raw"}]}
    was = changed.ask(total).body.rows[0].mean
    table = f"Test,Subject,Sitting,Form,Question,Key\nHarbour check,Mathematics,winter 2026,{form},"
    changed.bring("questions", f"{table}{question},{before.instead}\n", "key.csv")
    after = looked(changed, WHOLE, question)
    assert (after.key, after.doubt) == (before.instead, None)
    assert not [row for row in body(changed.ask(WHOLE)).rows if row.again]
    now = changed.ask(total).body.rows[0].mean
    old, new = (next(r for r in one.options if r.right).shares[0] for one in (before, after))
    size = body(changed.ask(WHOLE)).groups[0].n
    assert now - was == pytest.approx((new.n - old.n) / size)
    # The other form has a key of its own, which stays as its table says it.
    keys = pl.read_csv(changed.settings.home / "demo" / "check-keys.csv", infer_schema=False)
    own = keys.filter((pl.col("Form") == "A") & (pl.col("Question") == question))["Key"][0]
    assert looked(changed, BESIDE, question).key == own
    batch = int(str(changed.scalar("SELECT max(id) FROM batch")))
    change_standing(changed.engine, changed.settings, OPERATOR, batch, "undone")
    assert looked(changed, WHOLE, question).key == before.key
    assert changed.ask(total).body.rows[0].mean == was


def test_on_right_keys_nothing_is_said(demo: Place) -> None:
    assert not [row for row in body(demo.ask(BESIDE)).rows if row.again]


def test_the_planted_topic_and_the_planted_unfair_question_are_found(demo: Place) -> None:
    topics = body(demo.ask({**BESIDE, "options": {"by": "topic"}})).rows
    lacks = {row.label for row in topics if row.beside[0].verdict == "behind"}
    assert "Angles" in lacks
    angles = next(row for row in topics if row.label == "Angles")
    assert (angles.shares[1].share or 0) - (angles.shares[0].share or 0) > 0.5
    assert angles.beside[1].verdict != "behind"
    unfair = demo.ask({"show": "bias", "what": [FORM_B], "against": {"group": {"who": {}}},
                       "split": [{"characteristic": "Meal support"}]})  # fmt: skip
    marked = {row.label for row in unfair.body.rows
              if any(one.verdict in ("ahead", "behind") for one in row.of)}  # fmt: skip
    assert "Q5" in marked
    assert len(marked) <= 2  # the few in twenty that chance may add


def test_a_school_lead_sees_what_own_students_chose(demo: Place) -> None:
    rowan = actor_named(demo.engine, "rowan")
    found = looked(demo, {**WHOLE, "what": [{**FORM_B, "form": "A"}]}, "Q8", actor=rowan)
    folder = demo.settings.home / "demo"
    roster = pl.read_csv(folder / "roster-2025-26-april.csv", infer_schema=False)
    own = set(roster.filter(pl.col("School") == "Fernhollow")["Student number"].to_list())
    rows = pl.read_csv(folder / "check-winter-answers.csv", infer_schema=False).filter(
        (pl.col("Form") == "A") & (pl.col("Question") == "Q8")
    )
    texts = [r["Explanation"] for r in rows.iter_rows(named=True)
             if r["Student No"] in own and r["Explanation"]]  # fmt: skip
    assert found.written[0].n == len(texts)
    chosen = sum(row.shares[0].n for row in found.options if row.option != "none chosen")
    assert chosen == sum(number in own for number in rows["Student No"].to_list())


def test_papers_beside_each_other_and_who_is_far_better_on_one(demo: Place) -> None:
    found = body(demo.ask(PAPERS))
    grid = pl.read_csv(
        demo.settings.home / "demo" / "certificate-papers.csv", infer_schema=False
    )  # fmt: skip
    top, marks = grid[0], grid[1:]
    for row, paper in zip(found.rows, ("P1", "P2"), strict=True):
        names = [name for name in grid.columns if name.startswith(paper)]
        worth = sum(float(top[name][0]) for name in names)
        won = np.mean([sum(float(line[name]) for name in names)
                       for line in marks.iter_rows(named=True)])  # fmt: skip
        assert row.maximum == worth
        assert row.shares[0].share == pytest.approx(won / worth, abs=0.005)
    truth: Any = planted(demo)["truth"]
    (one,) = found.uneven
    assert (one.n, one.better) == (truth["check_questions"]["far_better_on_one_paper"], "Paper 1")
    assert len(demo.opened(PAPERS, one.opens).body.student) == one.n


def test_who_is_near_a_boundary(demo: Place) -> None:
    question = {"show": "spread", "what": [{**FORM_B, "score": "raw"}]}
    answer = demo.ask(question)
    assert isinstance(answer.body, SpreadBody)
    near = answer.body.near
    assert near is not None
    assert near.because == "the error of measurement, by its questions"
    assert 2 < near.within < 4
    snapshot = demo.snapshot
    key = next(m for m in snapshot.measures
               if m.label == "Mathematics, winter 2026" and m.score == "raw")  # fmt: skip
    form = next(f.id for f in key.forms if f.name == "B")
    held = snapshot.values(key)[snapshot.form(key) == form]
    held = held[~np.isnan(held)]
    for one, cut in zip(near.boundaries[-2:], (18, 29), strict=True):
        below = int(((held < cut) & (held >= cut - near.within)).sum())
        assert one.below.n == below
        assert one.above.n == int(((held >= cut) & (held <= cut + near.within)).sum())
        assert len(demo.opened(question, one.below.opens).body.student) == below
    asked = demo.ask({**question, "options": {"within": 1}})
    assert asked.body.near.because == "as you said"  # type: ignore[union-attr]
    assert asked.body.near.boundaries[-1].below.n == int(((held < 29) & (held >= 28)).sum())  # type: ignore[union-attr]


def test_standards_mastered_are_those_of_a_loop(demo: Place) -> None:
    of_form = {**FORM_B, "form": "A"}
    answer = demo.ask({"what": [{"derive": "mastered", "of": of_form}],
                       "who": of_class("8B")["who"]})  # fmt: skip
    grid = pl.read_csv(demo.settings.home / "demo" / "check-winter.csv", infer_schema=False)
    table = pl.read_csv(demo.settings.home / "demo" / "check-questions.csv", infer_schema=False)
    roster = pl.read_csv(demo.settings.home / "demo" / "roster-2025-26.csv", infer_schema=False)
    mine = roster.filter((pl.col("School") == "Netherby") & (pl.col("Class") == "8B"))
    numbers = set(mine["Student number"].to_list())
    worth = {r["Question"]: (r["Strand"], float(r["Maximum"])) for r in table.iter_rows(named=True)}
    shares = []
    for line in grid.filter(pl.col("Form") == "A").iter_rows(named=True):
        if line["Student No"] not in numbers:
            continue
        strands: dict[str, list[float]] = {}
        for name, (strand, most) in worth.items():
            held = strands.setdefault(strand, [0.0, 0.0])
            held[0] += float(line[name] or 0)
            held[1] += most
        shares.append(100 * np.mean([won / most >= 0.8 for won, most in strands.values()]))
    (row,) = answer.body.rows
    assert row.n == len(shares)
    assert row.mean == pytest.approx(np.mean(shares))
    levels = demo.ask({"what": [{**of_form, "score": "raw"}]})
    assert levels.body.rows


def test_a_student_leads_into_the_test_and_it_says_what_was_lost(demo: Place) -> None:
    folder = demo.settings.home / "demo"
    grid = pl.read_csv(folder / "check-winter.csv", infer_schema=False)
    roster = pl.read_csv(folder / "roster-2025-26.csv", infer_schema=False)
    mine = roster.filter((pl.col("School") == "Netherby") & (pl.col("Class") == "8B"))
    line = grid.filter(
        (pl.col("Form") == "A") & pl.col("Student No").is_in(mine["Student number"].to_list())
    ).row(0, named=True)
    student = student_of_number(demo.engine, demo.settings, OPERATOR, line["Student No"])
    page = student_page(demo.engine, demo.settings, OPERATOR, student)
    result = next(one for one in page.results if one.label == "Mathematics, winter 2026")
    assert result.inside is not None
    answer = demo.ask(result.inside.model_dump(mode="json", by_alias=True))
    won = sum(int(line[f"Q{n}"] or 0) for n in range(1, 31))
    assert answer.readings[0].text.startswith(f"This student won {won} of 40 marks; on average 8B")
    assert [group.label for group in body(answer).groups] == ["This student", "8B"]
    assert body(answer).groups[0].n == 1


def test_national_rank_by_strand_is_read_off_the_table(demo: Place) -> None:
    part = {"kind": "strand", "is": "each"}
    of_form = {**FORM_B, "form": "A", "part": part}
    answer = demo.ask({"what": [{"derive": "percentile", "of": of_form}],
                       "who": of_class("8B")["who"]})  # fmt: skip
    folder = demo.settings.home / "demo"
    grid = pl.read_csv(folder / "check-winter.csv", infer_schema=False)
    roster = pl.read_csv(folder / "roster-2025-26.csv", infer_schema=False)
    mine = roster.filter((pl.col("School") == "Netherby") & (pl.col("Class") == "8B"))
    numbers = mine["Student number"].to_list()
    table = pl.read_csv(folder / "check-national.csv", infer_schema=False).filter(
        (pl.col("Part") == "Fractions") & (pl.col("Sitting") == "winter 2026")
        & (pl.col("Form") == "A") & (pl.col("Year level") == "8")
        & (pl.col("Statistic") == "percentile")
    )  # fmt: skip
    rank: dict[float, float] = {}
    for line in table.iter_rows(named=True):
        score = float(line["Value"])
        rank[score] = max(rank.get(score, 0.0), float(line["Of"]))
    lines = grid.filter((pl.col("Form") == "A") & pl.col("Student No").is_in(numbers))
    won = [
        sum(float(line[f"Q{n}"] or 0) for n in range(7, 13)) for line in lines.iter_rows(named=True)
    ]
    ranks = np.clip(np.interp(won, sorted(rank), [rank[s] for s in sorted(rank)]), 1, 99)
    row = next(row for row in answer.body.rows if "Fractions" in row.label)
    assert row.n == len(won)
    assert row.mean == pytest.approx(float(np.mean(ranks)))


def test_an_area_of_few_questions_carries_a_caution(demo: Place) -> None:
    def told(kind: str) -> list[str]:
        of = {**FORM_B, "part": {"kind": kind, "is": "each"}}
        found = demo.ask({"what": [of]}).warnings
        return [one.text for one in found if one.code == "few_questions"]

    (text,) = told("topic")
    assert "Numbers (3 questions)" in text
    assert told("strand") == []


class TestOwnTags:
    """A column that nobody else has is a tag like any other, in the words of its table."""

    TABLE = (
        "Test,Subject,Sitting,Question,Calculator,Remark\n"
        "Letters,,June,Q1,with,a\nLetters,,June,Q2,without,b\n"
        "Letters,,June,Q3,with,c\nLetters,,June,Q4,without,d\n"
    )

    @pytest.fixture
    def own(self, place: Place) -> Place:
        place.bring("roster", "Number,School,Year level,Class\n" + "".join(
            f"{n:03},A,8,8A\n" for n in range(1, 41)), academic_year="2025-26")  # fmt: skip
        lines = "".join(f"{n:03},{n % 2},1,{int(n % 4 == 0)},0\n" for n in range(1, 41))
        place.bring("results", f"Number,Q1,Q2,Q3,Q4\n{lines}", test="Letters", sitting="June",
                    date="2026-06-10")  # fmt: skip
        place.bring("questions", self.TABLE)
        return place

    def test_its_questions_are_put_together(self, own: Place) -> None:
        asked = {"show": "items", "what": [{"assessment": "Letters"}],
                 "options": {"by": "calculator", "order": "paper"}}  # fmt: skip
        found = body(own.ask(asked))
        assert found.kinds == ["Calculator"]
        assert found.by == "Calculator"
        assert [(row.label, row.questions, row.shares[0].share) for row in found.rows] == [
            ("with", 2, 0.375), ("without", 2, 0.5),
        ]  # fmt: skip

    def test_it_is_a_measure_a_filter_and_part_of_the_catalogue(self, own: Place) -> None:
        part = {"kind": "Calculator", "is": "with"}
        rows = own.ask({"what": [{"assessment": "Letters", "part": part}]}).body.rows
        assert rows[0].value == 37.5
        only = body(own.ask({"show": "items", "what": [{"assessment": "Letters"}],
                             "options": {"only": "without"}}))  # fmt: skip
        assert {row.label for row in only.rows} == {"Q2", "Q4"}
        (test,) = catalogue(own.engine, own.settings, OPERATOR).measures
        assert {one.kind: one.names for one in test.parts}["Calculator"] == ["with", "without"]

    def test_what_no_table_calls_so_is_told(self, own: Place) -> None:
        part = {"kind": "Colour", "is": "red"}
        with pytest.raises(NotFound, match="No table calls a tag"):
            own.ask({"what": [{"assessment": "Letters", "part": part}]})
        with pytest.raises(InvalidQuestion, match="says its Colour"):
            own.ask({"show": "items", "what": [{"assessment": "Letters"}],
                     "options": {"by": "Colour"}})  # fmt: skip

    def test_a_column_of_remarks_is_no_tag(self, own: Place) -> None:
        columns = own.look("questions", self.TABLE).examination.columns
        assert {c.header: c.role for c in columns}["Calculator"] == "tag:Calculator"
        assert {c.header: c.role for c in columns}["Remark"] == "ignore"


def test_the_grid_has_the_best_first_and_says_what_a_blank_is(place: Place) -> None:
    """A hundred and twenty questions; a blank between answers and blanks at the end."""
    place.bring("roster", roster([(f"{n:03}", "A", 8) for n in range(1, 5)]),
                academic_year="2025-26")  # fmt: skip
    names = [f"Q{n}" for n in range(1, 121)]
    rows = {"001": ["1"] * 60 + [""] * 60, "002": ["1"] * 119 + ["1"], "003": ["", *["1"] * 119],
            "004": ["0"] * 120}  # fmt: skip
    lines = "".join(f"{number},{','.join(marks)}\n" for number, marks in rows.items())
    place.bring("results", f"Number,{','.join(names)}\n{lines}", test="Long", sitting="June",
                date="2026-06-10")  # fmt: skip
    total = {"assessment": "Long", "score": "raw"}
    asked = {"show": "students", "what": [{"assessment": "Long"}], "columns": [
        {"measure": total}, {"measure": {**total, "part": {"kind": "question", "is": "each"}}},
    ], "sort": [{"by": "#1", "dir": "desc"}]}  # fmt: skip
    columns = {c.short or c.label: c for c in place.ask(asked).body.columns}
    assert columns["Number"].values == ["002", "003", "001", "004"]
    assert columns["Q1"].values == [1, 0, 1, 0]
    assert columns["Q1"].why == ["", "left out", "", ""]
    assert columns["Q120"].values == [1, 1, None, 0]
    assert columns["Q120"].why is not None
    assert columns["Q120"].why[2] == "not reached"
    with pytest.raises(InvalidQuestion, match="#9"):
        place.ask({**asked, "columns": [{"measure": total}], "sort": [{"by": "#9"}]})

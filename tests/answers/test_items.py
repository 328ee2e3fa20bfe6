"""Inside a test: shares and distances as the files have them, blanks told apart, nothing claimed
where nothing is true, own students only."""

from __future__ import annotations

from typing import Any

import numpy as np
import polars as pl
import pytest
from tests.support import Place

from bridge_chart.access.accounts import actor_named
from bridge_chart.answers.asking.answer import Answer, cells_of, lines_of
from bridge_chart.answers.shows.items.body import Item, ItemsBody
from bridge_chart.terms.errors import InvalidQuestion, NotFound

CHECK = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A"}
EIGHTH = {"all": [{"field": "year_level", "in": [8]}]}


def of_class(name: str) -> dict[str, Any]:
    return {
        "label": name,
        "who": {"all": [{"field": "class", "in": [f"Netherby: {name}, 2025-26"]}]},
    }


BESIDE = {"show": "items", "what": [CHECK], "who": EIGHTH, "against": {"group": {"who": EIGHTH}},
          "split": [{"populations": [of_class("8B"), of_class("8A")]}]}  # fmt: skip


def body(answer: Answer) -> ItemsBody:
    assert isinstance(answer.body, ItemsBody)
    return answer.body


def row(answer: Answer, label: str) -> Item:
    return next(one for one in body(answer).rows if one.label == label)


@pytest.fixture(scope="module")
def files(demo: Place) -> pl.DataFrame:
    """Marks of form A with the class and year level of April, one line a student."""
    folder = demo.settings.home / "demo"
    roster = pl.read_csv(folder / "roster-2025-26.csv", infer_schema=False)
    marks = pl.read_csv(folder / "check-winter.csv", infer_schema=False).filter(
        pl.col("Form") == "A"
    )
    return marks.join(roster, left_on="Student No", right_on="Student number")


def won(year: pl.DataFrame, name: str) -> pl.Series:
    """Marks of a question: a blank is 0 where something after it has a mark, else missing."""
    after = [f"Q{n}" for n in range(int(name[1:]) + 1, 31)]
    cells = [
        float(line[name]) if line[name] else 0.0 if any(line[one] for one in after) else None
        for line in year.iter_rows(named=True)
    ]
    return pl.Series(cells, dtype=pl.Float64)


def test_shares_and_rest_are_those_of_the_files(demo: Place, files: pl.DataFrame) -> None:
    answer = demo.ask(BESIDE)
    year = files.filter(pl.col("Year level") == "Year 8")
    mine = (year["School"] == "Netherby") & (year["Class"] == "8B")
    assert body(answer).groups[0].n == int(mine.sum()) == 17
    worth = {"Q9": 2.0, "Q23": 1.0, "Q14": 1.0}
    for name, maximum in worth.items():
        share = won(year, name) / maximum
        one = row(answer, name)
        assert one.maximum == maximum
        assert one.shares[0].share == pytest.approx(share.filter(mine).mean())
        assert one.beside[0].rest == pytest.approx(share.filter(~mine).mean())
        assert one.beside[0].span == pytest.approx(
            share.filter(mine).mean() - share.filter(~mine).mean()  # type: ignore[operator]
        )
        assert one.beside[0].rest_n == int((~mine).sum())


def test_what_was_planted_is_found_and_said_first(demo: Place) -> None:
    strands = body(demo.ask({**BESIDE, "options": {"by": "strand"}})).rows
    assert {one.label for one in strands if one.beside[0].verdict == "behind"} == {
        "Fractions", "Shape and space",
    }  # fmt: skip
    assert not [one for one in strands if one.beside[1].verdict in ("behind", "ahead")]
    answer = demo.ask(BESIDE)
    assert answer.readings[0].text.startswith("Strands first: 8B is 39 points behind")
    behind = {one.about["strand"] for one in body(answer).rows if one.beside[0].verdict == "behind"}
    assert behind == {"Fractions", "Shape and space"}


def test_a_strand_is_what_every_other_lens_says(demo: Place) -> None:
    """The same share as the mean of the part in a table."""
    strands = demo.ask({**BESIDE, "options": {"by": "strand"}})
    part = {**CHECK, "part": {"kind": "strand", "is": "Fractions"}}
    table = demo.ask({**BESIDE, "show": "table", "what": [part]})
    means = [one.mean for one in table.body.rows]
    found = [100 * (one.share or 0) for one in row(strands, "Fractions").shares]
    assert sorted(found) == pytest.approx(sorted(means))
    one = row(demo.ask(BESIDE), "Q9")
    table = demo.ask({**BESIDE, "show": "table",
                      "what": [{**CHECK, "part": {"kind": "question", "is": "Q9"}}]})  # fmt: skip
    assert sorted(100 * (x.share or 0) for x in one.shares) == pytest.approx(
        sorted(x.mean for x in table.body.rows)
    )


def test_blanks_between_are_omitted_and_after_the_last_not_reached(place: Place) -> None:
    rows = [f"{n:03d},Ash,8,8A" for n in range(30)]
    place.bring("roster", "\n".join(["Number,School,Year,Class", *rows]) + "\n",
                academic_year="2025-26")  # fmt: skip
    marks = [f"{n:03d},1,{'' if n < 6 else 1},1,{'' if n < 3 else 1}" for n in range(29)]
    place.bring("results", "\n".join(["Number,Q1,Q2,Q3,Q4", *marks]) + "\n", test="Paper",
                sitting="winter", date="2026-02-01")  # fmt: skip
    answer = place.ask({"show": "items", "what": [{"assessment": "Paper"}]})
    one, last = row(answer, "Q2").shares[0], row(answer, "Q4").shares[0]
    assert (one.n, one.omitted, one.not_reached, one.missing) == (29, 6, 0, 1)
    assert one.share == pytest.approx(23 / 29)
    assert (last.n, last.omitted, last.not_reached, last.missing) == (26, 0, 3, 4)
    assert last.share == 1
    opened = place.opened({"show": "items", "what": [{"assessment": "Paper"}]}, last.opens)
    assert (opened.coverage[0].counted, opened.coverage[0].population) == (26, 30)
    with pytest.raises(InvalidQuestion, match="says its strand"):
        place.ask({"show": "items", "what": [{"assessment": "Paper"}], "options": {"by": "strand"}})


def test_where_nothing_is_true_one_test_in_twenty_has_a_mark(demo: Place) -> None:
    """Classes against the rest in strands that were not planted weak or strong for anybody."""
    asked = {**BESIDE, "split": [{"field": "class"}], "options": {"by": "strand"}}
    found = body(demo.ask(asked))
    weak = next(
        n for n, group in enumerate(found.groups) if group.label.startswith("8B · Netherby")
    )
    marked = [
        (one.label, found.groups[n].label) for one in found.rows
        for n, beside in enumerate(one.beside)
        if n != weak and beside.verdict in ("behind", "ahead")
    ]  # fmt: skip
    assert len(found.groups) > 10
    assert len(marked) <= 1


def test_a_school_sees_its_own_and_is_told_why_not_others(demo: Place) -> None:
    rowan = actor_named(demo.engine, "rowan")
    own = {"all": [*EIGHTH["all"], {"field": "school", "in": ["Fernhollow"]}]}
    asked = {**BESIDE, "split": [{"field": "class"}], "against": {"group": {"who": own}}}
    found = body(demo.ask(asked, rowan))
    assert {group.label.split(" · ")[-1] for group in found.groups} <= {"8A", "8B", "8C"} | {
        "Fernhollow"
    }
    whole = body(demo.ask({**asked, "split": [{"field": "class"}], "who": own}))
    assert [one.shares[0].share for one in found.rows] == [
        one.shares[0].share for one in whole.rows
    ]


def test_what_it_cannot_do_is_said(demo: Place) -> None:
    with pytest.raises(NotFound, match="several forms"):
        demo.ask({**BESIDE, "what": [{**CHECK, "form": None}]})
    with pytest.raises(NotFound, match="no marks by question"):
        demo.ask({"show": "items", "what": [{"assessment": "Spring survey", "subject": "Reading"}]})
    with pytest.raises(InvalidQuestion, match="held against others"):
        demo.ask({**BESIDE, "against": {"nation": {}}})


def test_it_goes_out_as_lines_and_fits_a_terminal(demo: Place) -> None:
    answer = demo.ask(BESIDE)
    heads, lines = lines_of(answer)
    assert len(lines) == 30
    assert "8B beside its rest: span" in heads
    at = heads.index("8B: share")
    assert [line[at] for line in lines] == [one.shares[0].share for one in body(answer).rows]
    cells = cells_of(answer)
    assert cells is not None
    assert cells[0][:4] == ["question", "marks", "8B (17)", "8A (16)"]
    ordered = body(demo.ask({**BESIDE, "options": {"order": "paper"}}))
    assert [one.place for one in ordered.rows] == list(range(1, 31))
    spans = [one.beside[0].span or 0 for one in body(answer).rows]
    assert spans == sorted(spans)


def test_a_key_that_is_wrong_is_called_out(place: Place) -> None:
    rng = np.random.default_rng(3)
    able = rng.normal(size=200)
    won = (able[:, None] + rng.normal(size=(200, 8)) > 0).astype(int)
    won[:, 4] = 1 - won[:, 4]
    rows = [f"{n:03d},Ash,8,8A" for n in range(200)]
    place.bring("roster", "\n".join(["Number,School,Year,Class", *rows]) + "\n",
                academic_year="2025-26")  # fmt: skip
    head = "Number," + ",".join(f"Q{n + 1}" for n in range(8))
    marks = [f"{n:03d}," + ",".join(map(str, one)) for n, one in enumerate(won.tolist())]
    place.bring("results", "\n".join([head, *marks]) + "\n", test="Paper", sitting="winter",
                date="2026-02-01")  # fmt: skip
    answer = place.ask({"show": "items", "what": [{"assessment": "Paper"}]})
    assert [one.label for one in body(answer).rows if one.again] == ["Q5"]
    assert "Read Q5 and its key again" in " ".join(one.text for one in answer.readings)

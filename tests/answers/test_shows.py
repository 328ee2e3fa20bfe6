"""Every show by its own declaration: keys that it takes, lines, what a terminal shows, refusals."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import BaseModel
from tests.support import Place

from bridge_chart.access.accounts import actor_named
from bridge_chart.answers.asking.answer import cells_of, lines_of
from bridge_chart.answers.beside.catalogue import catalogue
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.answers.shows.show import TAKEN_BY_SOME
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Body
from bridge_chart.terms.errors import InvalidQuestion

MATHS: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics",
                         "sitting": "spring 2026"}  # fmt: skip
READING = {**MATHS, "subject": "Reading"}
EIGHTH: dict[str, Any] = {"all": [{"field": "year_level", "in": [8]}]}
SEX: dict[str, Any] = {"characteristic": "Sex"}
VALUES: dict[str, Any] = {
    "split": [SEX],
    "focus": [{"characteristic": "Meal support", "in": ["yes"]}],
    "over": "year_level",
    "reference": ["nation"],
    "sort": [{"by": "n" , "dir": "desc"}],
    "page": {"size": 3},
    "columns": ["notes"],
    "options": {"colour": "red"},
}  # fmt: skip


FORM_A = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A"}
LEVEL_2 = {"derive": "award", "of": {"assessment": "Credits"}, "rule": "Harbour award level 2"}
NEEDED: dict[str, dict[str, Any]] = {
    "make_up": {"focus": VALUES["focus"]},
    "movement": {"against": {"earlier": {"measure": {**MATHS, "sitting": "spring 2025"}}}},
    "growth": {"against": {"earlier": {"measure": {**MATHS, "sitting": "spring 2025"}}}},
    "pace": {"against": {"earlier": {"measure": {**MATHS, "sitting": "spring 2025"}}}},
    "chances": {
        "what": [{"assessment": "Harbour mock", "subject": "Mathematics"}],
        "who": {},
        "against": None,
    },
    "trial": {"against": None},
    "awards": {"what": [LEVEL_2], "who": {}, "against": None},
    "items": {"what": [FORM_A], "against": {"group": {"who": {}}}},
    "bias": {"what": [FORM_A], "against": None, "split": [SEX], "who": {}},
}
"""What a show cannot be asked without."""


def question(show: str, **more: Any) -> dict[str, Any]:
    needed = NEEDED.get(show, {})
    return {"show": show, "who": EIGHTH, "what": [MATHS], "against": {"prior": {}},
            **needed, **more}  # fmt: skip


@pytest.mark.parametrize("name", list(SHOWS))
def test_a_show_declares_itself_wholly(name: str) -> None:
    show = SHOWS[name]
    assert issubclass(show.body, Body)
    assert name in str(show.body.model_fields["show"].annotation)
    assert set(show.takes) <= set(TAKEN_BY_SOME) <= set(q.Question.model_fields)
    assert bool(show.pins) == ("reference" in show.takes)
    assert bool(show.one_only) == (show.most == 1)
    assert show.options is None or issubclass(show.options, BaseModel)
    assert show.label[:1].isupper()


@pytest.mark.parametrize("name", list(SHOWS))
def test_lines_are_as_wide_as_their_heads(demo: Place, name: str) -> None:
    answer = demo.ask(question(name))
    heads, lines = lines_of(answer)
    assert lines
    assert {len(line) for line in lines} == {len(heads)}
    assert len(set(map(str, heads))) == len(heads)
    cells = cells_of(answer)
    if cells is not None:
        assert {len(row) for row in cells} == {len(cells[0])}
        assert all(isinstance(cell, str) for row in cells for cell in row)


@pytest.mark.parametrize("key", TAKEN_BY_SOME)
@pytest.mark.parametrize("name", list(SHOWS))
def test_a_key_that_a_show_does_not_take_is_refused(demo: Place, name: str, key: str) -> None:
    show = SHOWS[name]
    own = {"items": {"order": "paper"}, "spread": {"within": 5},
           "growth": {"priors": 2}, "pace": {"steps": 1}, "standing": {"also": []},
           "trial": {"wanted": 0.5}, "awards": {"condition": "Writing"},
           "chances": {"later": None},
           "movement": {"rule": "a rise, or the top held"}}  # fmt: skip
    value = own.get(name, VALUES[key]) if key == "options" else VALUES[key]
    if key == "sort" and name == "students":
        value = [{"by": "number"}]
    asked = question(name, **{key: value})
    if key in show.takes and not (key == "reference" and "nation" not in show.pins):
        assert demo.ask(asked).body.show == name
        return
    with pytest.raises(InvalidQuestion) as caught:
        demo.ask(asked)
    assert show.label in caught.value.message
    assert key in caught.value.message or "pins no row" in caught.value.message


@pytest.mark.parametrize("name", [name for name, show in SHOWS.items() if show.most == 1])
def test_a_show_of_one_measure_says_so(demo: Place, name: str) -> None:
    with pytest.raises(InvalidQuestion) as caught:
        demo.ask(question(name, what=[MATHS, READING], against=None))
    assert caught.value.message == SHOWS[name].one_only


def test_the_catalogue_tells_clients_what_each_show_takes(demo: Place) -> None:
    told = catalogue(demo.engine, demo.settings, actor_named(demo.engine, "ailsa")).shows
    assert [one.show for one in told] == list(SHOWS)
    for one in told:
        show = SHOWS[one.show]
        assert (set(one.takes), tuple(one.pins), one.measures) == (
            set(show.takes), show.pins, show.most,
        )  # fmt: skip


@pytest.mark.parametrize(
    "what",
    [{"derive": "percentile", "of": MATHS},
     {"derive": "span", "of": MATHS, "against": {"prior": {}}},
     {"assessment": "Harbour check", "sitting": "winter 2026", "part": "Number"}],
)  # fmt: skip
def test_levels_of_what_has_none_are_refused(demo: Place, what: dict[str, Any]) -> None:
    with pytest.raises(InvalidQuestion, match="counts levels or grades"):
        demo.ask({"show": "levels", "what": [what]})


def test_one_word_for_the_measures_is_enough(demo: Place) -> None:
    asked = question("table", what=[MATHS, READING], split=["subject", "measure"], against=None)
    with pytest.raises(InvalidQuestion, match="one word"):
        demo.ask(asked)


def test_the_school_of_a_class_can_be_pinned(demo: Place) -> None:
    """Classes of one school with the school and the district above; nothing where it says twice
    the same, or where several schools are asked about."""

    def pinned(**more: Any) -> list[str]:
        answer = demo.ask(question("spans", reference=["district", "school"], **more))
        assert all(row.pinned and row.opens is None for row in answer.body.reference)
        return [row.label for row in answer.body.reference]

    netherby = {"all": [*EIGHTH["all"], {"field": "school", "in": ["Netherby"]}]}
    one_class = {"all": [{"field": "class", "in": ["Netherby: 8B, 2025-26"]}]}
    assert pinned(who=one_class, split=[SEX]) == ["All schools", "Netherby"]
    assert pinned(who=netherby, split=[{"field": "class"}]) == ["All schools", "Netherby"]
    assert pinned(split=[{"field": "school"}]) == ["All schools"]
    assert pinned(who=netherby) == ["All schools"]
    rowan = actor_named(demo.engine, "rowan")
    own = demo.ask(question("levels", against=None, reference=["school"],
                            split=[{"field": "class"}]), rowan)  # fmt: skip
    assert [row.label for row in own.body.reference] == ["Fernhollow"]
    (row,) = own.body.reference
    assert row.n == sum(r.n for r in own.body.rows if not r.overlap) or own.body.rows[0].overlap


def test_a_list_has_a_column_for_each_split(demo: Place) -> None:
    answer = demo.ask(question("students", split=[SEX, {"field": "class"}]))
    columns = {column.key: column for column in answer.body.columns}
    assert columns["split_1"].label == "Sex"
    assert set(columns["split_1"].values) <= {"F", "M", "Not known"}
    for own, several in zip(columns["class"].values, columns["split_2"].values, strict=True):
        assert {name.split(" · ")[0] for name in several.split(", ")} == set(own.split(", "))
    sexes = {row.label: row.n + row.missing for row in demo.ask(
        question("table", split=[SEX])).body.rows}  # fmt: skip
    whole = demo.ask(question("students", split=[SEX], page={"size": 9999})).body.columns
    listed = next(c.values for c in whole if c.key == "split_1")
    assert {label: listed.count(label) for label in sexes} == sexes


def test_a_make_up_begins_with_what_it_is_split_by(demo: Place) -> None:
    plain = demo.ask(question("make_up")).body.entries
    split = demo.ask(question("make_up", split=[{"field": "class"}])).body.entries
    assert split[0].dimension == "class"
    assert [e.label for e in split if e.dimension != "class"] == [e.label for e in plain]
    sex_first = demo.ask(question("make_up", split=[SEX])).body.entries
    assert sex_first[0].dimension == "Sex"
    assert len(sex_first) == len(plain)


def test_a_sitting_named_twice_on_different_days_is_ambiguous(place: Place) -> None:
    """“As of spring” must mean one day."""
    place.bring("roster", "number,school,year\n" + "".join(
        f"{n:03d},Tarn,8\n" for n in range(30)), academic_year="2025-26")  # fmt: skip
    scores = "id,score\n" + "".join(f"{n:03d},{n}\n" for n in range(30))
    for test, date in (("Quiz", "2026-03-01"), ("Essay", "2026-04-01")):
        place.bring("results", scores, name=f"{test}.csv", test=test, sitting="spring", date=date)
    asked = {"what": [{"assessment": "Quiz"}], "who": {"as_of": {"sitting": "spring"}}}
    with pytest.raises(Exception, match="on different days"):
        place.ask(asked)
    measure = next(m for m in place.snapshot.measures if m.assessment.name == "Essay")
    asked["who"] = {"as_of": {"sitting": measure.sitting.id}}
    assert place.ask(asked).resolved.as_of == "2026-04-01"

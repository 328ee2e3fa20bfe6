"""Files and the district's own words: what files call a thing is found again, whichever word."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from tests.cli.warm import command
from tests.support import Place

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.words import said, say_words
from bridge_chart.terms.errors import ChangedMeanwhile, InvalidQuestion, NotAllowed, NotFound
from bridge_chart.terms.words import PLAIN, DistrictWords, speak

ROSTER = "Number,School,Year level,Plan\n1,A,8,yes\n2,A,8,no\n3,A,0,no\n"


@pytest.fixture
def named(place: Place) -> Iterator[Place]:
    """A school that calls its years stages, stage 0 Nursery, and a plan a support plan."""
    place.bring("roster", ROSTER, academic_year="2025-26")
    plan = next(iter(said(place.engine, OPERATOR).called))
    words = DistrictWords(
        year_level="stage", level_before="S", level_names={0: "Nursery"},
        characteristics={plan: "Support plan"},
    )  # fmt: skip
    say_words(place.engine, OPERATOR, words)
    yield place
    speak(PLAIN)


@pytest.mark.parametrize("heading", ["Plan", "Support plan"])
def test_a_column_by_either_word_is_the_same_characteristic(named: Place, heading: str) -> None:
    later = f"Number,School,Stage,{heading}\n1,A,S9,no\n2,A,S9,no\n3,A,Nursery,yes\n"
    plan = named.bring("roster", later, academic_year="2026-27")
    assert "characteristic" not in str(plan.examination.creates)
    (only,) = named.snapshot.characteristics
    assert (only.called, only.name) == ("Plan", "Support plan")
    roll = named.snapshot.rolls[-1]
    assert roll.year_level.tolist() == [9, 9, 0]
    values = [only.options[n].name for n in roll.characteristic(only.id, 3)]
    assert values == ["no", "no", "yes"]


def test_both_words_in_one_file_are_two_columns(named: Place) -> None:
    both = "Number,School,Stage,Plan,Support plan\n1,A,9,no,yes\n2,A,9,no,no\n"
    named.bring("roster", both, academic_year="2026-27")
    assert {c.called for c in named.snapshot.characteristics} == {"Plan", "Support plan"}


def test_what_may_not_be_said(named: Place) -> None:
    named.bring("roster", ROSTER.replace("Plan", "Meals"), academic_year="2025-26")
    held = said(named.engine, OPERATOR)
    by_name = {name: identity for identity, name in held.called.items()}

    def say(revision: int | None = None, **parts: object) -> None:
        words = DistrictWords.model_validate(parts)
        say_words(named.engine, OPERATOR, words, revision)

    with pytest.raises(InvalidQuestion, match="Files call another characteristic “Plan”"):
        say(characteristics={by_name["Meals"]: "Plan", by_name["Plan"]: "Support"})
    with pytest.raises(InvalidQuestion, match="Two characteristics would be called"):
        say(characteristics={by_name["Meals"]: "help", by_name["Plan"]: "Help"})
    with pytest.raises(InvalidQuestion, match="Two year levels would be called “Year 1”"):
        say(level_names={0: "Year 1"})
    with pytest.raises(NotFound, match="no characteristic 999"):
        say(characteristics={999: "x"})
    with pytest.raises(ChangedMeanwhile):
        say(revision=held.revision - 1)
    assert said(named.engine, OPERATOR) == held
    named.account("lead", "school_lead", "A")
    with pytest.raises(NotAllowed):
        say_words(named.engine, actor_named(named.engine, "lead"), PLAIN)
    # As files call it is no word of its own.
    say(characteristics={by_name["Plan"]: "Plan"})
    assert said(named.engine, OPERATOR).words == PLAIN


def test_the_command_line_says_and_shows_them(named: Place) -> None:
    home = named.settings.home
    done = command(home, "words", "--level", "1", "Reception", "--level", "0", "",
                  "--characteristic", "Plan", "", "--dates", "02.03.2026")  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "stage 1: Reception" in done.stdout
    assert "Nursery" not in done.stdout
    assert "Support plan" not in done.stdout
    assert command(home, "words").stdout == done.stdout
    refused = command(home, "words", "--numbers", "12")
    assert refused.returncode
    assert "Nothing was changed" in refused.stderr
    assert command(home, "words", "--characteristic", "Plans", "x").returncode
    assert command(home, "words").stdout == done.stdout

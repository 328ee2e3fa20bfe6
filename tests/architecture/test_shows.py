"""A show is one folder and one line: nothing else knows its name."""

from __future__ import annotations

import re
from pathlib import Path
from typing import get_args

import pytest

from bridge_chart.answers.against.kinds import KINDS as YARDSTICKS
from bridge_chart.answers.shows.listed import FOLDERS, SHOWS
from bridge_chart.answers.splits.kinds import KINDS as SPLITS
from bridge_chart.answers.who.conditions import CONDITIONS
from bridge_chart.terms import question as q

SRC = Path(__file__).resolve().parents[2] / "src" / "bridge_chart"
SHOWN = SRC / "answers" / "shows"
KNOWS_WORDS = {"terms/question.py", "answers/shows/listed.py"}
"""The format, which names every show of the job from the first day, and the one list."""


def test_every_folder_is_a_show_and_every_show_a_folder() -> None:
    folders = {path.name for path in SHOWN.iterdir() if (path / "show.py").exists()}
    assert folders == set(FOLDERS) == set(SHOWS)


@pytest.mark.parametrize("name", ["levels", "over_time", "start_to_now", "make_up"])
def test_no_other_file_knows_the_name_of_a_show(name: str) -> None:
    knowing = {
        str(path.relative_to(SRC))
        for room in ("answers", "api", "cli", "jobs", "output", "terms")
        for path in (SRC / room).rglob("*.py")
        if re.search(rf'"{name}"', path.read_text(encoding="utf-8"))
        and SHOWN / name not in path.parents
    }
    # What a mark of these two is narrowed to is said where marks are opened.
    opened = {"answers/asking/opened.py", "answers/asking/frame.py"}
    allowed = {"make_up": opened, "over_time": opened}
    assert knowing - KNOWS_WORDS - allowed.get(name, set()) == set()


def test_each_kind_of_the_format_is_bound_in_one_list() -> None:
    assert _kinds(q.Condition) == set(CONDITIONS)
    assert _kinds(q.Dimension) == set(SPLITS)
    keys = [kind.kind for kind in YARDSTICKS]
    assert len(keys) == len(set(keys)) == 8


def _kinds(union: object) -> set[type]:
    """The models of a tagged union."""
    members = [get_args(member)[0] for member in get_args(get_args(union)[0])]
    return {member for member in members if isinstance(member, type)}

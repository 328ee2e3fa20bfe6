"""Every show, each once: a new one is a folder of this room and a line here."""

from __future__ import annotations

from importlib import import_module

from bridge_chart.answers.shows.show import Show

FOLDERS = (
    "spans", "levels", "spread", "start_to_now", "over_time", "table", "sure",
    "make_up",
    "movement", "growth", "standing", "pace", "chances", "trial",
    "items", "bias", "awards",
    "students",
    "strip",
)  # fmt: skip
"""The lenses in the order of the bar, then the others."""


def _declared(folder: str) -> Show:
    found = import_module(f"bridge_chart.answers.shows.{folder}.show").SHOW
    assert isinstance(found, Show)
    assert found.name == folder
    return found


SHOWS: dict[str, Show] = {folder: _declared(folder) for folder in FOLDERS}

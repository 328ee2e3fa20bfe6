"""Progress on the terminal: the phase and what is left, written over one line and taken away."""

from __future__ import annotations

import io

from bridge_chart.cli.watching import OnTerminal
from bridge_chart.intake.drafts.pace import EXPECTED
from bridge_chart.terms.progress import PHASES


def test_each_phase_is_said_with_what_is_left_and_the_line_is_taken_away() -> None:
    out = io.StringIO()
    watching = OnTerminal("results", 100.0, out)
    whole = round(100 * sum(EXPECTED["results"].values()))
    for phase in EXPECTED["results"]:
        watching.at(phase)
        watching.alive()
    watching.end()
    said = out.getvalue().split("\r\033[K")
    assert said[1] == f"· Reading the file, about {whole} s left"
    assert said[-2].startswith("· Making it answerable, about ")
    assert said[-1] == ""


def test_every_phase_that_is_expected_has_its_words() -> None:
    assert {phase for phases in EXPECTED.values() for phase in phases} == set(PHASES)

"""A try: what would it take, and what would be then."""

from __future__ import annotations

from bridge_chart.answers.shows.show import Show
from bridge_chart.answers.shows.trial.answer import trial_shown
from bridge_chart.answers.shows.trial.body import TrialBody, TrialOptions
from bridge_chart.answers.shows.trial.lines import trial_cells, trial_lines

SHOW = Show(
    name="trial", label="Try", body=TrialBody, answer=trial_shown, lines=trial_lines,
    terminal=trial_cells, options=TrialOptions, takes=frozenset({"split", "focus", "options"}),
    steps=True, most=1, one_only="One measure is tried at a time.",
)  # fmt: skip

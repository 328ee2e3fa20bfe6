"""Make-up: who are they?"""

from __future__ import annotations

from bridge_chart.answers.shows.make_up.answer import make_up_shown
from bridge_chart.answers.shows.make_up.body import MakeUpBody
from bridge_chart.answers.shows.make_up.lines import make_up_lines
from bridge_chart.answers.shows.show import Show

SHOW = Show(
    name="make_up", label="Make-up", body=MakeUpBody, answer=make_up_shown, lines=make_up_lines,
    takes=frozenset({"focus", "split"}), shares=True, most=1,
    one_only="A make-up is of one population, so it takes one measure.",
)  # fmt: skip

"""How sure: does a verdict hang on the line, on one school, on the year?"""

from __future__ import annotations

from bridge_chart.answers.shows.over_time.answer import with_yardstick
from bridge_chart.answers.shows.show import Show
from bridge_chart.answers.shows.sure.answer import sure_shown
from bridge_chart.answers.shows.sure.body import SureBody
from bridge_chart.answers.shows.sure.lines import sure_lines

SHOW = Show(
    name="sure", label="How sure", body=SureBody, answer=sure_shown, lines=sure_lines,
    takes=frozenset({"split"}), every_sitting=True, ready=with_yardstick,
)  # fmt: skip

"""Over time: how did it go from sitting to sitting?"""

from __future__ import annotations

from bridge_chart.answers.shows.over_time.answer import time_shown, with_yardstick
from bridge_chart.answers.shows.over_time.body import TimeBody
from bridge_chart.answers.shows.over_time.lines import time_lines
from bridge_chart.answers.shows.show import Sheet, Show

SHOW = Show(
    name="over_time", label="Over time", body=TimeBody, answer=time_shown, lines=time_lines,
    takes=frozenset({"split", "over"}), shares=True, every_sitting=True, ready=with_yardstick,
    sheet=Sheet(),
)  # fmt: skip

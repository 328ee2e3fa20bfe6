"""Start to now: where did they start, and where are they?"""

from __future__ import annotations

from bridge_chart.answers.shows.show import Show
from bridge_chart.answers.shows.start_to_now.answer import start_shown
from bridge_chart.answers.shows.start_to_now.body import StartBody
from bridge_chart.answers.shows.start_to_now.lines import start_lines

SHOW = Show(
    name="start_to_now", label="Start to now", body=StartBody, answer=start_shown,
    lines=start_lines, takes=frozenset({"split", "focus"}), most=1,
    one_only="Start to now draws one measure against where students started.",
)  # fmt: skip

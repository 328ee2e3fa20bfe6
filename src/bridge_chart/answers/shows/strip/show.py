"""The split strip: how far apart are the groups of everything that one can split by?"""

from __future__ import annotations

from bridge_chart.answers.shows.show import Show
from bridge_chart.answers.shows.strip.answer import strip_shown
from bridge_chart.answers.shows.strip.body import StripBody
from bridge_chart.answers.shows.strip.lines import strip_lines

SHOW = Show(
    name="strip", label="The split strip", body=StripBody, answer=strip_shown, lines=strip_lines,
    shares=True, most=1, one_only="The split strip is of one measure.",
)  # fmt: skip

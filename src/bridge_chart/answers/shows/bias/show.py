"""Fairness: is a question harder for a group among students with equal totals?"""

from __future__ import annotations

from bridge_chart.answers.shows.bias.answer import bias_shown
from bridge_chart.answers.shows.bias.body import BiasBody
from bridge_chart.answers.shows.bias.lines import bias_cells, bias_lines
from bridge_chart.answers.shows.show import Sheet, Show

SHOW = Show(
    name="bias", label="Fairness", body=BiasBody, answer=bias_shown, lines=bias_lines,
    terminal=bias_cells, takes=frozenset({"split"}), most=1,
    one_only="One test is looked into at a time.", sheet=Sheet(beside=False),
)  # fmt: skip

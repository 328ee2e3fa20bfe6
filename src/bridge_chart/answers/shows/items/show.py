"""Questions: how did they answer, question by question, beside others?"""

from __future__ import annotations

from bridge_chart.answers.shows.items.answer import items_shown
from bridge_chart.answers.shows.items.body import ItemOptions, ItemsBody
from bridge_chart.answers.shows.items.lines import item_cells, item_lines
from bridge_chart.answers.shows.show import Sheet, Show

SHOW = Show(
    name="items", label="Questions", body=ItemsBody, answer=items_shown, lines=item_lines,
    terminal=item_cells, takes=frozenset({"split", "options"}), most=1,
    one_only="One test is looked into at a time.", options=ItemOptions, sheet=Sheet(beside=False),
)  # fmt: skip

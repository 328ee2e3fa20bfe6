"""What chances say, and how they are worked out."""

from __future__ import annotations

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.shows.chances.body import ChancesBody, ChancesRow
from bridge_chart.answers.shows.movement.words import percent
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.wording import count, number
from bridge_chart.terms.words import spoken

CAUTION = (
    "It says what became of others who stood there, not what will become of one; and nothing of "
    "what help would change."
)


def chances_readings(body: ChancesBody) -> list[Reading]:
    """A sentence for each level that students are in now, where there is a line to reach."""
    shown = [row for row in body.rows if row.share and row.n]
    said = []
    if body.pass_at:
        line = body.outcomes[body.pass_at].name
        said = [
            Reading(kind="pass", rows=[row.key], text=_row(row, body.pass_at, line, body))
            for row in shown
        ]
    hidden = [row for row in body.rows if row.undefined and row.n]
    if hidden:
        names = ", ".join(row.label for row in hidden)
        text = f"{names}: too few before, or one cohort alone, so no chances are told."
        said.append(Reading(kind="few", rows=[row.key for row in hidden], text=text))
    if body.spread > 1:
        text = (
            f"Cohorts differ {number(body.spread)} times as much as chance would have them; the "
            "intervals are wider by that."
        )
        said.append(Reading(kind="trust", rows=[], text=text))
    return [*said, Reading(kind="trust", rows=[], text=CAUTION)]


def _row(row: ChancesRow, at: int, line: str, body: ChancesBody) -> str:
    behind = count(row.past or 0, "student")
    about = "about " if row.coarse else ""
    return (
        f"Of {about}{behind} who stood at {row.label}, {about}{percent(row.at_or_above[at])} "
        f"({percent(row.above_low[at])} to {percent(row.above_high[at])}) reached {line} or better "
        f"in {body.later}; {count(row.n, 'student')} stand there now."
    )


def chances_method(view: View, body: ChancesBody) -> Method:
    low, high = body.months_least, body.months_most
    after = f"{low}" if low == high else f"{low} to {high}"
    says = [
        f"What became of all earlier students of the district's same {spoken().year_level} who "
        f"stood at each level in {view.quantity.key.about}: their first result in {body.later}, "
        f"{after} months later, {count(len(body.cohorts), 'cohort')} together. Conditions choose "
        "who is counted now, not who went before.",
        "Intervals are Wilson's at 95%, wider where cohorts differ more than chance would have "
        "them; below 30 students, or of one cohort alone, nothing is told.",
        CAUTION,
    ]
    coarse = [row.coarse for row in body.rows if row.coarse]
    if coarse:
        says[1] += " Shares are rounded, so that nobody else's student can be told from them."
    facts = {
        "cohorts": [[one.before, one.later, one.n] for one in body.cohorts],
        "spread": body.spread, "fewest": 30,
    }  # fmt: skip
    return Method(name="Chances by level", says=says, facts=facts, page="methods/chances.md")

"""What growth says, and how it is worked out."""

from __future__ import annotations

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.shows.growth.body import GrowthBody, GrowthRow
from bridge_chart.answers.shows.movement.words import percent
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.wording import amount, count, listed, number
from bridge_chart.terms.words import spoken

MOST_NAMED = 4


def growth_readings(body: GrowthBody) -> list[Reading]:
    """Short sentences that claim no more than the intervals do."""
    n = sum(row.n for row in body.rows)
    if not n:
        return [Reading(kind="list", rows=[], text="Nobody has both results.")]
    said = []
    for kind, way in (("ahead", "more"), ("behind", "less")):
        for row in [row for row in body.rows if row.verdict == kind][:MOST_NAMED]:
            said.append(Reading(kind=row.verdict, rows=[row.key], text=_beyond(row, way, body)))
    rest = [row for row in body.rows if row.verdict == "unclear"]
    if rest and len(body.rows) > 1:
        names = listed([row.label for row in rest], MOST_NAMED)
        text = f"{names} cannot be told from similar starters; don't rank them."
        said.append(Reading(kind="unclear", rows=[row.key for row in rest], text=text))
    whole = body.reference or (body.rows if len(body.rows) == 1 else [])
    for row in whole:
        said += [*_met(row), *_fell(row)]
    return said + [
        Reading(kind="coverage", rows=[], text=f"{text[:1].upper()}{text[1:]}.")
        for text in body.lacks
    ]


def _beyond(row: GrowthRow, way: str, body: GrowthBody) -> str:
    if row.span is None or row.low is None or row.high is None:
        return f"{row.label}: grew {way} than similar starters."
    low, high = sorted((abs(row.low), abs(row.high)))
    middle = "" if row.median is None else f" The middle growth percentile is {_whole(row.median)}"
    if middle and row.median_low is not None and row.median_high is not None:
        middle += f" ({_whole(row.median_low)} to {_whole(row.median_high)})"
    return (
        f"{row.label}: {number(abs(row.span))} {body.unit} {way} than similar starters "
        f"({number(low)} to {number(high)}, {count(row.n, 'student')}).{middle}{'.' * bool(middle)}"
    )


def _whole(percentile: float) -> str:
    """Halves upwards, as on screen."""
    return amount(int(percentile + 0.5))


def _met(row: GrowthRow) -> list[Reading]:
    told = [one for one in row.met if one.share is not None]
    if not told:
        return []
    parts = [f"{percent(one.share)} met the {one.goal} growth" for one in told]
    text = f"{row.label}: {' and '.join(parts)}, of {count(told[0].of, 'student')} in the table."
    return [Reading(kind="pass", rows=[row.key], text=text)]


def _fell(row: GrowthRow) -> list[Reading]:
    fell = row.fell
    if fell is None:
        return []
    alone = "" if fell.alone is None else (
        f"; error alone would let {percent(fell.alone)} seem to"
    )  # fmt: skip
    beyond = "" if fell.beyond_alone is None else (
        f" For {amount(fell.beyond.n)} the fall is beyond error; error alone would put about "
        f"{amount(round(fell.beyond_alone))} there."
    )  # fmt: skip
    text = (
        f"{row.label}: {percent(fell.share)} of {count(fell.of, 'student')} fell behind the nation "
        f"though their score rose{alone}.{beyond}"
    )
    return [Reading(kind="chance", rows=[row.key], text=text)]


def growth_method(view: View, body: GrowthBody) -> Method:
    says = [
        f"A growth percentile says where a student stands among all students of the district's "
        f"{spoken().year_level} who had the same in {listed(body.priors, 3)}; the median over the "
        "row. Fitted on itself, the district's middle is 50.",
        "▲ and ▼ stand for the distance from similar starters, as in Spans. Intervals are at 95%; "
        "classes vary too.",
        "A difference from students who started alike; no proof of teaching quality.",
    ]
    facts = {"priors": body.priors, "goals": list(body.goals), "score": view.quantity.score}
    return Method(
        name="Growth percentiles and growth against a table", says=says, facts=facts,
        page="methods/growth-percentiles.md",
    )  # fmt: skip

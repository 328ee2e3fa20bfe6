"""What movement says, and how it is worked out."""

from __future__ import annotations

from collections.abc import Sequence

from bridge_chart.answers.shows.movement.body import MovementBody
from bridge_chart.answers.what.credit import A_RISE, Rule
from bridge_chart.terms.answer import Method, Reading
from bridge_chart.terms.wording import amount, count, listed
from bridge_chart.terms.words import spoken

MOST_NAMED = 4


def percent(share: float | None) -> str:
    """A share in whole percent.

    >>> percent(0.666)
    '67%'
    """
    return "–" if share is None else f"{100 * share:.0f}%"


def movement_readings(body: MovementBody, pass_at: int | None) -> list[Reading]:
    """Short sentences that claim no more than the intervals do."""
    n = sum(flow.n for flow in body.flows)
    if not n:
        return [Reading(kind="list", rows=[], text="Nobody has both results.")]
    said = [_all(body, n), *_beyond(body)]
    if pass_at is not None and 0 < pass_at < len(body.now_in):
        said += _over_the_line(body, pass_at)
    return [*said, _alone(body)]


def _all(body: MovementBody, n: int) -> Reading:
    told = next(one for one in body.rules if one.name == body.rule)
    part = f", {percent(told.part)} a part of it" if told.part else ""
    text = (
        f"{count(n, 'student')} with both results: {amount(body.up.n)} rose, "
        f"{amount(body.same.n)} held, {amount(body.down.n)} fell. {percent(told.full)} earned "
        f"full credit{part}."
    )
    return Reading(kind="list", rows=[], text=text)


def _beyond(body: MovementBody) -> list[Reading]:
    said = []
    for row in body.rows:
        if row.verdict not in ("ahead", "behind") or row.span is None:
            continue
        way = "fewer" if row.verdict == "behind" else "more"
        low, high = sorted(abs(100 * (x or 0.0)) for x in (row.span_low, row.span_high))
        text = (
            f"{row.label}: credit {percent(row.credit)}; similar starters earn "
            f"{percent(row.similar)} ({abs(100 * row.span):.0f} points {way}, {low:.0f} to "
            f"{high:.0f}; {count(row.n, 'student')})."
        )
        said.append(Reading(kind=row.verdict, rows=[row.key], text=text))
    rest = [row for row in body.rows if row.verdict == "unclear"]
    if rest and len(body.rows) > 1:
        names = listed([row.label for row in rest], MOST_NAMED)
        text = f"{names} cannot be told from similar starters; don't rank them."
        said.append(Reading(kind="unclear", rows=[row.key for row in rest], text=text))
    return said


def _over_the_line(body: MovementBody, pass_at: int) -> list[Reading]:
    line = body.now_in[pass_at].name
    below = sum(f.n for f in body.flows if f.before < pass_at)
    rose = sum(f.n for f in body.flows if f.before < pass_at <= f.now)
    above = sum(f.n for f in body.flows if f.before >= pass_at)
    fell = sum(f.n for f in body.flows if f.before >= pass_at > f.now)
    parts = []
    if below:
        parts.append(
            f"Of {count(below, 'student')} below {line}, {amount(rose)} rose to it or better."
        )
    if above:
        parts.append(f"Of {amount(above)} at {line} or better, {amount(fell)} fell below it.")
    return [Reading(kind="pass", rows=[], text=" ".join(parts))]


def _alone(body: MovementBody) -> Reading:
    known = [row for row in [*body.reference, *body.rows] if row.alone is not None]
    if not known:
        text = f"What error of measurement alone would give is not known: {body.alone_because}."
        return Reading(kind="chance", rows=[], text=text)
    whole = sum(row.n for row in body.rows if row.alone is not None) or 1
    mean = sum((row.alone or 0.0) * row.n for row in body.rows) / whole
    text = (
        f"Had nobody changed, error of measurement alone would still give a credit of "
        f"{percent(mean)} by this rule."
    )
    return Reading(kind="chance", rows=[], text=text)


def movement_method(body: MovementBody, rule: Rule, steps: Sequence[str]) -> Method:
    own = rule.name != A_RISE
    says = [
        f"The level of each student in {body.before} and in {body.now}. Who lacks one of them is "
        "in no share, and counted.",
        f"Credit by the rule “{rule.name}”"
        + (", as the district's table has it." if own else
           ": a rise or the top level held earns full credit, everything else none."),
        "▲ and ▼ hold a group's credit against what students who were in the same level then "
        f"earn, apart in each {spoken().year_level} of the district; classes vary too.",
    ]  # fmt: skip
    facts = {
        "rule": rule.name,
        "credit": {f"{before} → {now}": float(rule.credit[b, n])
                   for b, before in enumerate(steps) for n, now in enumerate(steps)},
    }  # fmt: skip
    return Method(name="Credit for movement", says=says, facts=facts, page="methods/movement.md")

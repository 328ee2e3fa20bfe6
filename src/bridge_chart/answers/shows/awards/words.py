"""What an award says, and how it is counted."""

from __future__ import annotations

from collections.abc import Sequence

from bridge_chart.answers.shows.awards.body import AwardCondition, AwardRead, AwardsBody
from bridge_chart.answers.shows.levels.words import percent
from bridge_chart.answers.what.award import Award
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms.answer import Method, Reading, Slots
from bridge_chart.terms.wording import amount, count, number, plain


def asks(words: Slots, counting: str) -> str:
    """The question as one sentence."""
    return (
        f"Which of {words.who} meet {words.what}, counting {counting} records, "
        f"split by {words.split}?"
    )


def award_readings(body: AwardsBody) -> list[Reading]:
    """The award first, then what holds most back, and what estimates are worth."""
    said = []
    if not any(award.n for award in body.awards):
        return [_line("list", "Nobody who is asked about has a credit record.")]
    for award in body.awards:
        if award.n < FEWEST_TO_SHOW:
            text = f"{count(award.n, 'student')} with records: too few to say shares of."
            said.append(_line("few", text))
            continue
        said.append(_line("list", _whole(award)))
        mine = [one for one in body.conditions if one.measure == award.measure and not one.whole]
        said += [_line("list", text) for text in _holds_back(mine)]
        said += [_line("list", text) for text in _rests(award)]
    said += [_line("trust", text) for text in _before(body)]
    return said


def _line(kind: str, text: str) -> Reading:
    return Reading.model_validate({"kind": kind, "rows": [], "text": text})


def _whole(award: AwardRead) -> str:
    text = (
        f"{amount(award.met)} of {count(award.n, 'student')} with records have met {award.name} "
        f"({percent(award.met / award.n)})"
    )
    if award.course:
        text += f"; {amount(award.course)} more are on course ({percent(award.course / award.n)})"
        if award.rests is not None:
            text += f", resting on {number(award.rests)} estimates each on average"
    return f"{text}."


def needed(one: AwardCondition) -> str:
    """How much a condition needs, with its unit."""
    unit = one.unit.removesuffix("s") if one.needed == 1 else one.unit
    return f"{plain(one.needed)} {unit}"


def _holds_back(conditions: list[AwardCondition]) -> list[str]:
    """The condition that most lack, and how near they are."""
    known = [one for one in conditions if one.counts]
    if not known or not any(one.counts[0] for one in known):
        return []
    worst = max(known, key=lambda one: one.counts[0])
    needs = needed(worst)
    verb = "does" if worst.counts[0] == 1 else "do"
    text = f"“{worst.name}” holds most back: {amount(worst.counts[0])} {verb} not come to {needs}"
    text += " even with what is estimated" if len(worst.counts) > 2 else ""
    unit = worst.unit.removesuffix("s")
    lacks = "lacks" if worst.close == 1 else "lack"
    near = f"; {amount(worst.close)} of them {lacks} one {unit} at most" if worst.close else ""
    lack = "has" if worst.unestimated == 1 else "have"
    none = f"; {amount(worst.unestimated or 0)} {lack} no estimate for it" if (
        worst.unestimated and len(worst.counts) > 2) else ""  # fmt: skip
    return [f"{text}{near}{none}."]


def _rests(award: AwardRead) -> list[str]:
    out = []
    if award.but_one.n and award.conditions > 1:
        verb = "meets" if award.but_one.n == 1 else "meet"
        out.append(f"{count(award.but_one.n, 'student')} {verb} all but one condition.")
    if award.apart.n:
        verb = "meets" if award.apart.n == 1 else "meet"
        out.append(
            f"{count(award.apart.n, 'student')} {verb} each condition by itself, but no one choice "
            "of records meets all."
        )
    if award.lower is not None and award.course:
        out.append(
            f"If every estimate came out one result lower, {amount(award.lower)} of the "
            f"{amount(award.course)} on course would not meet it."
        )
    return out


def _before(body: AwardsBody) -> list[str]:
    """How estimates came out in earlier years."""
    if not body.estimates:
        return []
    all_of = body.estimates[0]
    if all_of.reached is None:
        return []
    without = all_of.estimates - all_of.outcomes
    text = (
        f"In earlier years {percent(all_of.reached / all_of.outcomes)} of "
        f"{count(all_of.outcomes, 'estimate')} with an outcome were reached or bettered (95% "
        f"interval {percent(all_of.low or 0)} to {percent(all_of.high or 0)})"
    )
    more = f"; {amount(without)} have no outcome on record" if without else ""
    return [f"{text}{more}."]


def award_method(awards: Sequence[Award], body: AwardsBody) -> Method:
    """How it is counted."""
    first = awards[0]
    return Method(
        name="Awards",
        says=[
            f"Credit records until the end of {body.school_year}. Each standard counts once, of a "
            "set of standards of which one counts one; a record may serve several conditions. "
            "Credits are added exactly.",
            "Met: by one choice of banked records all conditions hold. On course: by one of banked "
            "and estimated records. The fewest estimates under which it still holds are what it "
            "rests on.",
            *(f"{award.rule.name}: {' '.join(award.rule.says)}" for award in awards),
        ],
        facts={
            "awards": [award.rule.name for award in awards], "counting": first.counting,
            "school_year": body.school_year, "confidence": 0.95,
        },
        page="methods/awards.md",
    )  # fmt: skip

"""What a try says, and how it is worked out."""

from __future__ import annotations

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.shows.movement.words import percent
from bridge_chart.answers.shows.trial.body import TrialBody, TrialOptions
from bridge_chart.terms.answer import Method, Reading, Slots
from bridge_chart.terms.wording import amount, count, listed, number

NOT_RESULTS = "A try, not results."
WORDS = {
    "ahead": "is ahead", "behind": "is behind", "alike": "is close",
    "unclear": "cannot be told from the others",
}  # fmt: skip
NO_REASON = "Nearest is no reason to teach some and not others."


def asks(words: Slots) -> str:
    """The question as one sentence."""
    return f"A try, not results: what would it take for {words.who} in {words.what}?"


def said(value: float | None, body: TrialBody) -> str:
    """A figure of the body: a share in percent, steps with two decimals."""
    if value is None:
        return "–"
    return percent(value) if body.figure == "share" else number(value, 2)


def trial_readings(body: TrialBody, options: TrialOptions) -> list[Reading]:
    """What it would take, how that stands to what has happened, who would be judged otherwise."""
    if body.now is None:
        text = f"{count(body.group.n, 'student')} with a result: too few to try anything with."
        return [Reading(kind="few", rows=[], text=text)]
    told = [
        Reading(kind="list", rows=[], text=text)
        for text in [*_takes(body, options), *_earlier(body)]
    ]
    return [*told, *_verdicts(body), Reading(kind="trust", rows=[], text=NO_REASON)]


def _takes(body: TrialBody, options: TrialOptions) -> list[str]:
    out = []
    if body.by_hand:
        out.append(
            f"With the {count(body.moved, 'student')} who are moved here the figure goes from "
            f"{said(body.now, body)} to {said(body.with_try, body)}; wanted is {body.wanted_words}."
        )
    if body.needed == 0:
        return [
            *out,
            f"It is there already: {said(body.now, body)}, wanted is {body.wanted_words}.",
        ]
    if body.reachable:
        out.append(
            f"{amount(body.needed)} of the {count(body.group.n, 'student')} would have to gain a "
            f"step for this: {body.wanted_words}."
        )
    elif body.any_students is None:
        out.append(f"Not reachable: {body.wanted_words}, not even with everybody at the top.")
    else:
        out.append(
            f"Not reachable with one step each: {body.wanted_words}. It would take "
            f"{count(body.any_students, 'student')} with as many steps as each can gain, or "
            f"{count(body.any_steps or 0, 'step')} in all."
        )
    if options.each == "any" and body.any_students is not None and body.reachable:
        out.append(
            f"With as many steps as each can gain it is {count(body.any_students, 'student')}."
        )
    return out


def _earlier(body: TrialBody) -> list[str]:
    before = body.before
    out = []
    if before is not None:
        where = f"{said(before.low, body)} to {said(before.high, body)}"
        beyond = body.wanted is not None and body.wanted > before.high
        how = "more than has happened" if beyond else "within what has happened"
        out.append(
            f"Groups like this, counted with those who fell, finish at {where} by "
            f"{count(before.cohorts, 'earlier year')} ({before.later}): what is wanted is {how}."
        )
    elif body.before_because:
        out.append(f"Where groups like this finished is not known: {body.before_because}.")
    if body.refit is not None and body.with_try is not None:
        out.append(
            f"The expectation is held fixed. Fitted again with these results the figure would be "
            f"{said(body.refit, body)} and not {said(body.with_try, body)}."
        )
    done = body.happened
    if done is not None:
        out.append(
            f"What then happened: of the {count(done.have, 'student')} moved here who have "
            f"{done.later}, {amount(done.reached)} reached the step or better, "
            f"{amount(done.fell)} fell below where they stood."
        )
    return out


def _verdicts(body: TrialBody) -> list[Reading]:
    out = []
    for row in body.rows:
        if row.verdict == row.verdict_now or {row.verdict, row.verdict_now} & {"few", "none"}:
            continue
        words = {"ahead": "is ahead", "behind": "is behind", "alike": "is close",
                 "unclear": "cannot be told from the others"}  # fmt: skip
        text = (
            f"With that, {row.label} {words[row.verdict]}; without it, it {words[row.verdict_now]}."
        )
        out.append(Reading(kind=row.verdict, rows=[row.key], text=text))
    if len(out) > 3:
        names = listed(
            [next(r.label for r in body.rows if r.key == one.rows[0]) for one in out[3:]]
        )
        out = [
            *out[:3],
            Reading(kind="list", rows=[], text=f"{names} would be judged otherwise too."),
        ]
    return out


def trial_method(view: View, body: TrialBody) -> Method:
    whose = "in focus" if view.focus is not None else "asked about"
    figure = (
        f"The share of those {whose} at {body.step} or better"
        if body.figure == "share"
        else f"The mean of those {whose}, in steps of {view.quantity.label}"
    )
    held = "" if view.yardstick is None or body.figure == "share" else (
        f", minus what {view.yardstick.words} says"
    )  # fmt: skip
    says = [
        f"{NOT_RESULTS} {figure}{held}; after so many gain a step, nearest first. Fewest in exact "
        "fractions; nobody passes the top.",
        "Rows are worked out again with the results that are tried; what is expected of each, and "
        "what varies, stays as it is fitted on the record.",
        NO_REASON,
    ]
    return Method(
        name="What would it take", says=says, facts={"moved": body.moved, "steps": body.steps},
        page="methods/trying-a-change.md",
    )  # fmt: skip

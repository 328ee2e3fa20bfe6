"""How this is worked out: three lines for everybody, facts for whoever checks."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from bridge_chart.answers.bound.yardstick import Told
from bridge_chart.answers.figures.pooled import why_not_pooled
from bridge_chart.answers.figures.sample import sample_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.words.intake import intake_correlation
from bridge_chart.core.contrasts.differ import groups_differ
from bridge_chart.core.trust.verdicts import ALIKE_WITHIN_SD, FEWEST_FOR_VERDICT, FEWEST_TO_SHOW
from bridge_chart.terms.answer import Method, Row


def method_of(part: Slice, rows: Sequence[Row]) -> Method:
    """The method of a comparison, with everything needed to work it out again."""
    view, out, yardstick = part.view, part.out, part.view.yardstick
    facts: dict[str, Any] = {
        "fewest_to_show": FEWEST_TO_SHOW,
        "fewest_for_verdict": FEWEST_FOR_VERDICT,
        "alike_within_sd": ALIKE_WITHIN_SD,
        "outcome_sd_within_year_levels": _finite(out.sd),
        "confidence": 0.95,
    }
    if yardstick is None:
        return _plain(part, rows, facts)
    facts |= {"classes": _classes(part), "differ": _differ(part)}
    if out.held is not None and out.held.fit is not None:
        intake = intake_correlation(out, part.grouping)
        facts |= {
            "correlation_with_intake": None if intake is None else intake[0],
        }
    shrunken = any(row.se_kind == "comparative" for row in rows)
    why = why_not_pooled(view, part.grouping) if yardstick.pools else None
    judged = any(row.verdict != "none" for row in rows)
    told = Told(_interval_line(part, rows), facts, shrunken, why, judged)
    return yardstick.method(view.snapshot, told)


def _plain(part: Slice, rows: Sequence[Row], facts: dict[str, Any]) -> Method:
    quantity = part.view.quantity
    nothing = "Nothing is allowed for: not where they started, not who they are."
    if quantity.is_share:
        return Method(
            name="Share with its interval",
            says=[
                f"{quantity.label}: of the students of whom it can be said.",
                f"{_interval_line(part, rows)} Wilson's, of as many students as those in their "
                "classes are worth.",
                nothing,
            ],
            facts=facts,
            page="methods/shares.md",
        )
    mean = f"The mean of {quantity.label} over the students who have it."
    told = None if quantity.worked is None else quantity.worked.explained
    if told is not None:
        mean, nothing = f"{mean} {told[0]}", "Nothing else is allowed for."
    return Method(
        name="Mean with its interval",
        says=[mean, _interval_line(part, rows), nothing],
        facts=facts,
        page="methods/description.md" if told is None else told[1],
    )


def _finite(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _differ(part: Slice) -> dict[str, float | None] | None:
    """The test that the rows differ at all."""
    if len(part.grouping.groups) < 2 or part.grouping.overlaps or part.out.group is not None:
        return None
    test = groups_differ(sample_of(part.view, part.out), part.grouping.at, part.grouping.code)
    return {
        "f": _finite(test.f), "df": test.df, "df_error": _finite(test.df_error),
        "p": _finite(test.p), "spread": _finite(test.sd),
    }  # fmt: skip


def _classes(part: Slice) -> dict[str, float | int | None]:
    """What varies beside students, as it was estimated on the district."""
    noise = sample_of(part.view, part.out).noise
    return {
        "sd_of_students": _finite(noise.variance**0.5),
        "sd_that_classes_add": _finite(noise.between**0.5) if noise.known else None,
        "classes_behind_it": noise.classes,
    }  # fmt: skip


def _interval_line(part: Slice, rows: Sequence[Row]) -> str:
    """What an interval means, and what of it is not known."""
    known = sample_of(part.view, part.out).noise.known
    alone = any(row.se_kind == "students" for row in rows)
    text = "The 95% interval is the range that the figure could have taken with another like "
    text += "cohort of these schools: students vary"
    if not known:
        return f"{text}. What classes add is not known here, so intervals are too narrow by that."
    text += ", and the classes in which they are taught"
    if alone and any(row.se_kind == "classes" for row in rows):
        return f"{text}; a row of one class of a school is that class."
    return f"{text}; the row is that class." if alone and len(rows) == 1 else f"{text}."

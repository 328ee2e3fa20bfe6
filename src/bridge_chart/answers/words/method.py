"""How this is worked out: three lines for everybody, facts for whoever checks."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.bound.yardstick import Expectation, Told
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.figures.pooled import why_not_pooled
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.core.trust.chance import heterogeneity
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
    if out.held is not None and out.held.fit is not None:
        facts |= {
            "correlation_with_intake": _intake(out, out.held.fit, part.grouping),
            "heterogeneity": _heterogeneity(rows, part.grouping),
        }
    shrunken = any(row.se_kind == "comparative" for row in rows)
    why = why_not_pooled(view, part.grouping) if yardstick.pools else None
    judged = any(row.verdict != "none" for row in rows)
    told = Told(_interval_line(rows), facts, shrunken, why, judged)
    return yardstick.method(view.snapshot, told)


def _plain(part: Slice, rows: Sequence[Row], facts: dict[str, Any]) -> Method:
    quantity = part.view.quantity
    nothing = "Nothing is allowed for: not where they started, not who they are."
    if quantity.is_share:
        return Method(
            name="Share with its interval",
            says=[
                f"{quantity.label}: of the students of whom it can be said.",
                "Intervals are Wilson's, at 95%. They count students only, so they are too narrow "
                "by whatever classes and schools add.",
                nothing,
            ],
            facts=facts,
            page="methods/shares.md",
        )
    return Method(
        name="Mean with its interval",
        says=[
            f"The mean of {quantity.label} over the students who have it.",
            _interval_line(rows),
            nothing,
        ],
        facts=facts,
        page="methods/description.md",
    )


def _interval_line(rows: Sequence[Row]) -> str:
    kinds = {row.se_kind for row in rows if row.se_kind}
    first = "The 95% interval is the range that the figure could have taken with a like cohort"
    return first + (
        "; students of one school are not taken as independent." if "CR2" in kinds else "."
    )


def _finite(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _intake(out: Outcome, fit: Expectation, grouping: Grouping) -> float | None:
    """Correlation, over the rows, of the mean span with the mean prior."""
    groups = len(grouping.groups)
    held = ~np.isnan(out.drawn[grouping.at])
    at, code = grouping.at[held], grouping.code[held]
    n = np.bincount(code, minlength=groups)
    some = n >= FEWEST_TO_SHOW
    if some.sum() < 3:
        return None
    span = np.bincount(code, out.drawn[at], groups)[some] / n[some]
    prior = np.bincount(code, fit.prior[at], groups)[some] / n[some]
    if span.std() == 0 or prior.std() == 0:
        return None
    return float(np.corrcoef(span, prior)[0, 1])


def _heterogeneity(rows: Sequence[Row], grouping: Grouping) -> dict[str, float | None] | None:
    told = [row for row in rows if row.span is not None and row.se]
    if len(told) < 2 or grouping.overlaps or not grouping.within_school:
        return None
    test = heterogeneity(
        np.array([row.span for row in told], float), np.array([row.se for row in told], float)
    )
    return {"q": _finite(test.q), "df": test.df, "p": _finite(test.p), "spread": test.spread}

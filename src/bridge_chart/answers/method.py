"""How this is worked out: three lines for everybody, facts for whoever checks."""

from __future__ import annotations

from typing import Any

import numpy as np

from bridge_chart.answers.figures import Outcome
from bridge_chart.answers.grouping import Grouping
from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import WORDS
from bridge_chart.core.expected.line import FEWEST_TO_FIT
from bridge_chart.core.trust.chance import heterogeneity
from bridge_chart.core.trust.verdicts import ALIKE_WITHIN_SD, FEWEST_FOR_VERDICT, FEWEST_TO_SHOW
from bridge_chart.terms.answer import Method, Row
from bridge_chart.terms.wording import count


def method_of(view: View, out: Outcome, rows: list[Row], grouping: Grouping) -> Method:
    """The method of a comparison, with everything needed to work it out again."""
    facts: dict[str, Any] = {
        "fewest_to_show": FEWEST_TO_SHOW,
        "fewest_for_verdict": FEWEST_FOR_VERDICT,
        "alike_within_sd": ALIKE_WITHIN_SD,
        "outcome_sd_within_year_levels": _finite(out.sd),
        "confidence": 0.95,
    }
    if out.held is None:
        return Method(
            name="Mean with its interval",
            says=[
                f"The mean of {view.measure.label} over the students who have it.",
                _interval_line(rows),
                "Nothing is allowed for: not where they started, not who they are.",
            ],
            facts=facts,
            page="methods/description.md",
        )
    held, by = out.held, WORDS[out.held.form]
    basis = sum(year.n for year in held.years)
    facts |= {
        "model": f"simple: {by} on one prior, apart in each year level",
        "basis": "all students of the district with both scores",
        "basis_n": basis,
        "prior": held.prior_key.label,
        "fewest_to_fit": FEWEST_TO_FIT,
        "year_levels": [
            {
                "year_level": year.year_level,
                "n": year.n,
                "residual_sd": _finite(year.residual_sd),
                "r_squared": _finite(year.r_squared),
                "intercept": year.intercept,
                "slope": year.slope,
            }
            for year in held.years
        ],
        "correlation_with_intake": _intake(out, grouping),
        "heterogeneity": _heterogeneity(rows, grouping),
    }
    return Method(
        name="Distance from similar starters, simple model",
        says=[
            f"Each student's score in {view.measure.label} minus the score expected from "
            f"{held.prior_key.label}: {by} for each year level, through "
            f"{count(basis, 'student')} of the whole district, whoever asks.",
            _interval_line(rows),
            "A difference from students who started alike; no proof of teaching quality.",
        ],
        facts=facts,
        page="methods/value-added.md",
    )


def _interval_line(rows: list[Row]) -> str:
    kinds = {row.se_kind for row in rows if row.se_kind}
    first = "The 95% interval is the range that the figure could have taken with a like cohort"
    return first + (
        "; students of one school are not taken as independent." if "CR2" in kinds else "."
    )


def _finite(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _intake(out: Outcome, grouping: Grouping) -> float | None:
    """Correlation, over the rows, of the mean span with the mean prior."""
    assert out.held is not None
    groups = len(grouping.groups)
    held = ~np.isnan(out.drawn[grouping.at])
    at, code = grouping.at[held], grouping.code[held]
    n = np.bincount(code, minlength=groups)
    some = n >= FEWEST_TO_SHOW
    if some.sum() < 3:
        return None
    span = np.bincount(code, out.drawn[at], groups)[some] / n[some]
    prior = np.bincount(code, out.held.prior[at], groups)[some] / n[some]
    if span.std() == 0 or prior.std() == 0:
        return None
    return float(np.corrcoef(span, prior)[0, 1])


def _heterogeneity(rows: list[Row], grouping: Grouping) -> dict[str, float | None] | None:
    told = [row for row in rows if row.span is not None and row.se]
    if len(told) < 2 or grouping.overlaps or not grouping.within_school:
        return None
    test = heterogeneity(
        np.array([row.span for row in told], float), np.array([row.se for row in told], float)
    )
    return {"q": _finite(test.q), "df": test.df, "p": _finite(test.p), "spread": test.spread}

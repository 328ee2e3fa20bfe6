"""How this is worked out: three lines for everybody, facts for whoever checks."""

from __future__ import annotations

from typing import Any

import numpy as np

from bridge_chart.answers.figures import Outcome
from bridge_chart.answers.grouping import Grouping
from bridge_chart.answers.held import WORDS, Expectation, Held
from bridge_chart.answers.pooled import why_not_pooled
from bridge_chart.answers.rows import Slice
from bridge_chart.core.expected.line import FEWEST_TO_FIT
from bridge_chart.core.trust.chance import heterogeneity
from bridge_chart.core.trust.verdicts import ALIKE_WITHIN_SD, FEWEST_FOR_VERDICT, FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method, Row
from bridge_chart.terms.wording import count


def method_of(part: Slice, rows: list[Row]) -> Method:
    """The method of a comparison, with everything needed to work it out again."""
    view, out = part.view, part.out
    facts: dict[str, Any] = {
        "fewest_to_show": FEWEST_TO_SHOW,
        "fewest_for_verdict": FEWEST_FOR_VERDICT,
        "alike_within_sd": ALIKE_WITHIN_SD,
        "outcome_sd_within_year_levels": _finite(out.sd),
        "confidence": 0.95,
    }
    if out.group is not None:
        return _against_group(part, rows, facts)
    if out.held is None:
        return Method(
            name="Mean with its interval",
            says=[
                f"The mean of {view.quantity.label} over the students who have it.",
                _interval_line(rows),
                "Nothing is allowed for: not where they started, not who they are.",
            ],
            facts=facts,
            page="methods/description.md",
        )
    if out.held.fit is None:
        return _looked_up(part, out.held, rows, facts)
    return _against_start(part, out.held, out.held.fit, rows, facts)


def _against_group(part: Slice, rows: list[Row], facts: dict[str, Any]) -> Method:
    assert part.out.group is not None
    facts["group_n"] = int(np.count_nonzero(part.out.group & ~np.isnan(part.out.values)))
    return Method(
        name="Distance from the rest of a group",
        says=[
            f"The mean of {part.view.quantity.label} in each row, minus the mean of those of the "
            "group who are not in that row.",
            _interval_line(rows),
            "Nothing is allowed for: not where they started, not who they are.",
        ],
        facts=facts,
        page="methods/part-and-rest.md",
    )


LOOKED_UP = {
    "nation": ("Distance from the nation", "methods/group-against-nation.md",
               "minus the nation's mean for the form and year level that the student sat"),
    "target": ("Distance from a target", "methods/target-status.md", "minus the student's target"),
    "predicted": ("Distance from a prediction", "methods/target-status.md",
                  "minus what was predicted"),
    "earlier": ("Change since an earlier sitting", "methods/gains.md",
                "minus the same student's earlier one"),
}  # fmt: skip


def _looked_up(part: Slice, held: Held, rows: list[Row], facts: dict[str, Any]) -> Method:
    name, page, minus = LOOKED_UP[held.kind]
    last = {
        "nation": "The nation's figures are taken as they were published, without an error.",
        "earlier": "A change holds what everybody gains in the time; compare rows, not with zero.",
    }.get(held.kind, "How the target was set is not judged here.")
    if held.tables:
        facts["tables"] = list(held.tables)
    return Method(
        name=name,
        says=[
            f"Each student's {part.view.quantity.score_name} in {part.view.quantity.label}, "
            f"{minus}; the mean over the row.",
            _interval_line(rows),
            last,
        ],
        facts=facts,
        page=page,
    )


def _against_start(
    part: Slice, held: Held, fit: Expectation, rows: list[Row], facts: dict[str, Any]
) -> Method:
    view, out, by = part.view, part.out, WORDS[fit.form]
    against = view.against
    assert isinstance(against, q.AgainstPrior)
    basis = sum(year.n for year in fit.years)
    why = why_not_pooled(view, part.grouping) if against.prior.model == "multilevel" else ""
    shrunk = any(row.se_kind == "comparative" for row in rows)
    several = len(fit.priors) > 1
    facts |= {
        "model": f"{'multilevel' if shrunk else 'simple'}: {by} on "
        f"{'several priors' if several else 'one prior'}, apart in each year level",
        "basis": "all students of the district with both scores",
        "basis_n": basis,
        "prior": held.start_label,
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
            for year in fit.years
        ],
        "correlation_with_intake": _intake(out, fit, part.grouping),
        "heterogeneity": _heterogeneity(rows, part.grouping),
    }
    says = [
        f"Each student's score in {view.quantity.label} minus the score expected from "
        f"{held.start_label}: {by} for each year level, through "
        f"{count(basis, 'student')} of the whole district, whoever asks.",
        _interval_line(rows),
        "A difference from students who started alike; no proof of teaching quality.",
    ]
    name = "Distance from similar starters, simple model"
    if shrunk:
        name = "Distance from similar starters, multilevel model"
        says[1] = (
            "Rows are drawn towards the middle as far as their size leaves doubt (shrunken); "
            "the interval is that of the difference from the district."
        )
        facts["shrunken"] = True
    elif why:
        says[1] += f" Rows are not shrunken, for {why}."
        facts["not_shrunken"] = why
    return Method(name=name, says=says, facts=facts,
                  page="methods/multilevel.md" if shrunk else "methods/value-added.md")  # fmt: skip


def _interval_line(rows: list[Row]) -> str:
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


def _heterogeneity(rows: list[Row], grouping: Grouping) -> dict[str, float | None] | None:
    told = [row for row in rows if row.span is not None and row.se]
    if len(told) < 2 or grouping.overlaps or not grouping.within_school:
        return None
    test = heterogeneity(
        np.array([row.span for row in told], float), np.array([row.se for row in told], float)
    )
    return {"q": _finite(test.q), "df": test.df, "p": _finite(test.p), "spread": test.spread}

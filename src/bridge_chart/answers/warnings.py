"""Warnings: what makes this comparison unsound, and what to ask instead."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.figures import Outcome
from bridge_chart.answers.view import View
from bridge_chart.core.arrays import Mask
from bridge_chart.terms.answer import Coverage, Row, Warn
from bridge_chart.terms.wording import count, number

LOW_COVERAGE = 0.90
UNLIKE_BY_SD = 0.1
FLOOR_OR_CEILING = 0.10


def warnings_of(
    view: View, out: Outcome, people: Mask, covered: Coverage, rows: list[Row]
) -> list[Warn]:
    """Every warning that the numbers call for."""
    found = [
        _low_coverage(covered),
        _unlike(view, out, people),
        _piled_up(out, people),
        _overlap(rows),
        _set_aside(covered),
        _levels_mixed(view, out, people),
    ]
    return [warning for warning in found if warning]


def _low_coverage(covered: Coverage) -> Warn | None:
    if covered.population == 0 or covered.counted >= LOW_COVERAGE * covered.population:
        return None
    share = 100 * covered.counted / covered.population
    text = (
        f"Only {covered.counted:,} of {covered.population:,} are counted ({share:.0f}%); "
        "those who are missing may differ."
    )
    return Warn(code="low_coverage", text=text)


def _unlike(view: View, out: Outcome, people: Mask) -> Warn | None:
    """Whether those not counted started higher or lower than those counted."""
    if out.held is None:
        return None
    prior = out.held.prior
    both = people & ~np.isnan(prior)
    counted, missing = prior[both & (out.reasons == 0)], prior[both & (out.reasons != 0)]
    if len(counted) < 2 or len(missing) < 10:
        return None
    apart = (missing.mean() - counted.mean()) / counted.std(ddof=1)
    noise = 2 * np.sqrt(1 / len(missing) + 1 / len(counted))
    if not abs(apart) > max(UNLIKE_BY_SD, noise):
        return None
    way = "lower" if apart < 0 else "higher"
    text = (
        f"The {count(len(missing), 'student')} with a starting score but no result started "
        f"{number(abs(apart))} standard deviations {way} than those counted."
    )
    return Warn(code="missing_differ", text=text)


def _piled_up(out: Outcome, people: Mask) -> Warn | None:
    """Many students at the lowest or highest score: the test could not tell them apart."""
    values = out.values[people & ~np.isnan(out.values)]
    if len(values) < 50 or len(np.unique(values[:2000])) < 8:
        return None
    for end, word in ((values.min(), "lowest"), (values.max(), "highest")):
        share = float(np.mean(values == end))
        if share > FLOOR_OR_CEILING:
            text = f"{100 * share:.0f}% of the students have the {word} score ({end:g})."
            return Warn(code="floor" if word == "lowest" else "ceiling", text=text)
    return None


def _overlap(rows: list[Row]) -> Warn | None:
    if not any(row.overlap for row in rows):
        return None
    text = "Some students stand in several rows, so the rows may not be added up."
    return Warn(code="overlap", text=text)


def _set_aside(covered: Coverage) -> Warn | None:
    if not covered.set_aside:
        return None
    verb = "is" if covered.set_aside == 1 else "are"
    rows = count(covered.set_aside, "row")
    text = f"{rows} of this sitting {verb} set aside at intake and in no figure."
    return Warn(code="set_aside", text=text)


def _levels_mixed(view: View, out: Outcome, people: Mask) -> Warn | None:
    """Means over several year levels without a yardstick compare ages, not schools."""
    if out.held is not None:
        return None
    counted = people & (out.reasons == 0)
    tested = np.asarray(view.tested_year_level)[counted].astype(np.intp) + 1
    levels = np.flatnonzero(np.bincount(tested, minlength=1))
    if len(levels) < 2:
        return None
    text = (
        f"{len(levels)} year levels are mixed; groups with older students look better for that "
        "alone."
    )
    return Warn(code="year_levels_mixed", text=text, instead={"against": {"prior": {}}})

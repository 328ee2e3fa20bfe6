"""Whether those who started higher come out further ahead."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.core.distributions import t_two_sided
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW

FEWEST_ROWS = 5


def intake_correlation(out: Outcome, grouping: Grouping) -> tuple[float, float] | None:
    """Correlation, over the rows, of the mean span with the mean start, and its p (t on rows − 2);
    None where there is no fit, or fewer rows than FEWEST_ROWS."""
    if out.held is None or out.held.fit is None:
        return None
    groups, prior = len(grouping.groups), out.held.fit.prior
    held = ~np.isnan(out.drawn[grouping.at]) & ~np.isnan(prior[grouping.at])
    at, code = grouping.at[held], grouping.code[held]
    n = np.bincount(code, minlength=groups)
    some = n >= FEWEST_TO_SHOW
    rows = int(some.sum())
    if rows < FEWEST_ROWS:
        return None
    span = np.bincount(code, out.drawn[at], groups)[some] / n[some]
    start = np.bincount(code, prior[at], groups)[some] / n[some]
    if span.std() == 0 or start.std() == 0:
        return None
    r = float(np.corrcoef(span, start)[0, 1])
    if abs(r) >= 1:
        return r, 0.0
    return r, float(t_two_sided(r * np.sqrt((rows - 2) / (1 - r * r)), rows - 2.0))

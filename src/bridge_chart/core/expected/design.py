"""Columns that a prior enters a regression with: a line, a cubic, a natural spline."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.core.arrays import Floats

Form = Literal["linear", "cubic", "spline"]
SPLINE_KNOTS = (0.05, 0.275, 0.50, 0.725, 0.95)


@dataclass(frozen=True)
class PriorForm:
    """How one prior enters: its centre and scale on the fit population, and its spline's knots."""

    form: Form
    centre: float
    scale: float
    knots: tuple[float, ...] = ()

    def columns(self, prior: Floats) -> Floats:
        """(students, columns): the prior standardised, and its powers or spline terms."""
        x = (np.asarray(prior, np.float64) - self.centre) / self.scale
        if self.form == "linear":
            return x[:, None]
        if self.form == "cubic":
            return np.stack([x, x**2, x**3], axis=1)
        return natural_spline(x, np.array(self.knots))


def natural_spline(x: Floats, knots: Floats) -> Floats:
    """Natural cubic spline basis without the constant, (students, knots − 1): x, and truncated
    powers joined so that it is straight beyond the outer knots (Harrell 2001, ch. 2).

    With fewer than three knots only x is left.

    >>> natural_spline(np.array([0., 1, 2]), np.array([0., 1, 2])).round(4).tolist()
    [[0.0, 0.0], [1.0, 0.25], [2.0, 1.5]]
    """
    columns = [x]
    if len(knots) >= 3:
        last, before = knots[-1], knots[-2]
        for knot in knots[:-2]:
            raised = _cubed(x - knot)
            raised = raised - _cubed(x - before) * (last - knot) / (last - before)
            raised = raised + _cubed(x - last) * (before - knot) / (last - before)
            columns.append(raised / (last - knots[0]) ** 2)
    return np.stack(columns, axis=1)


def _cubed(x: Floats) -> Floats:
    """max(x, 0)³; a power would cost several times as much."""
    above = np.maximum(x, 0.0)
    return np.asarray(above * above * above)


def prior_form(prior: Floats, form: Form) -> PriorForm | None:
    """The form fixed on the fit population's priors (no NaN); None where they do not vary.

    Spline knots at the .05, .275, .5, .725 and .95 quantiles, duplicates dropped; a cubic on a
    prior with three distinct values or fewer would not be determined and is lowered to a line.

    >>> prior_form(np.array([1., 1, 1]), "linear") is None
    True
    """
    if form not in ("linear", "cubic", "spline"):
        raise ValueError(f'form must be "linear", "cubic" or "spline"; it is "{form}" instead')
    prior = np.asarray(prior, np.float64)
    if len(prior) < 2:
        return None
    centre, scale = float(prior.mean()), float(prior.std(ddof=1))
    if not scale > 1e-9 * max(abs(centre), 1e-300):
        return None
    if form == "cubic" and len(np.unique(prior)) <= 3:
        form = "linear"
    knots: tuple[float, ...] = ()
    if form == "spline":
        at = np.unique(np.quantile((prior - centre) / scale, SPLINE_KNOTS))
        knots = tuple(float(k) for k in at)
    return PriorForm(form, centre, scale, knots)

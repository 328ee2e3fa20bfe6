"""How much a difference is: in standard deviations, in levels, in months of a year's gain."""

from __future__ import annotations

from dataclasses import dataclass

from bridge_chart.core.estimate import NAN

LEAST_YEARLY_GAIN_SD = 0.15
SCHOOL_MONTHS = 10


@dataclass(frozen=True)
class PracticalSize:
    """One difference in units that mean something; NaN where they do not, and then `reason`."""

    sd: float
    levels: float
    months: float
    reason: str = ""


def practical_size(
    difference: float,
    sd: float,
    *,
    level_width: float = NAN,
    yearly_gain: float = NAN,
    vertical: bool = False,
) -> PracticalSize:
    """A difference in sd, as a fraction of a level, and in months.

    sd = difference/sd; levels = difference/width of a level; months = difference ÷ a tenth of the
    yearly norm gain, only on a vertical scale whose yearly gain is at least .15 sd (else a small
    gain in the divisor makes months of anything). All in the outcome's unit.
    Errors: ValueError where sd is not positive.

    >>> s = practical_size(6.0, 30.0, level_width=20.0, yearly_gain=12.0, vertical=True)
    >>> s.sd, s.levels, s.months
    (0.2, 0.3, 5.0)
    """
    if not sd > 0:
        raise ValueError(f"sd must be positive; it is {sd} instead")
    months, reason = NAN, ""
    if not vertical:
        reason = "no months: the scale is not vertical"
    elif not yearly_gain >= LEAST_YEARLY_GAIN_SD * sd:
        reason = f"no months: the yearly gain is under {LEAST_YEARLY_GAIN_SD:g} sd"
    else:
        months = difference / (yearly_gain / SCHOOL_MONTHS)
    levels = difference / level_width if level_width > 0 else NAN
    return PracticalSize(difference / sd, levels, months, reason)

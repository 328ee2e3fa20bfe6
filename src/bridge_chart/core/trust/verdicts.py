"""What may be said of a row: ahead, behind, alike, unclear or few."""

from __future__ import annotations

from typing import Literal

import numpy as np

from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.trust.discoveries import discoveries

FEWEST_TO_SHOW = 10
FEWEST_FOR_VERDICT = 20
FEWEST_DF = 4.0
ALIKE_WITHIN_SD = 0.1
LEAST_RELIABILITY = 0.5
FIRM_RELIABILITY = 0.7
VERDICTS = ("behind", "ahead", "alike", "unclear", "few")


def verdicts(
    span: Floats,
    low: Floats,
    high: Floats,
    p: Floats,
    n: Integers,
    df: Floats,
    sd: float,
    reliability: Floats | None = None,
) -> list[str]:
    """ahead, behind, alike, unclear or few, per row (see VERDICTS).

    ahead/behind: a discovery among these rows. alike: the interval lies inside
    ±ALIKE_WITHIN_SD·sd (Schuirmann 1987). few: n < FEWEST_FOR_VERDICT, or df < FEWEST_DF,
    or no interval, or reliability < LEAST_RELIABILITY (given for shrunken estimates).
    All (rows,) in the outcome's unit; sd is the population's.

    >>> verdicts(*(np.array(a) for a in ([-4., .1, 2.], [-6., -.3, -1.], [-2., .5, 5.],
    ...     [.001, .6, .2], [84, 900, 41], [83., 899., 40.])), sd=10.0)
    ['behind', 'alike', 'unclear']
    """
    enough = (n >= FEWEST_FOR_VERDICT) & (df >= FEWEST_DF) & ~np.isnan(low)
    if reliability is not None:
        enough &= reliability >= LEAST_RELIABILITY
    stands = discoveries(np.where(enough, p, np.nan))
    near = (low >= -ALIKE_WITHIN_SD * sd) & (high <= ALIKE_WITHIN_SD * sd)
    out = np.select(
        [~enough, stands & (span < 0), stands & (span > 0), near],
        ["few", "behind", "ahead", "alike"], "unclear",
    )  # fmt: skip
    return [str(verdict) for verdict in out]


Firmness = Literal["firm", "indicative", "few"]


def firmness(reliability: Floats) -> list[Firmness]:
    """How firmly a verdict on a shrunken estimate may be read, from its reliability (0 … 1).

    Below .5 few, below .7 indicative, else firm; NaN is few.

    >>> firmness(np.array([0.4, 0.6, 0.9]))
    ['few', 'indicative', 'firm']
    """
    names: tuple[Firmness, ...] = ("few", "indicative", "firm")
    known = np.nan_to_num(np.asarray(reliability, np.float64), nan=0.0)
    place = np.searchsorted([LEAST_RELIABILITY, FIRM_RELIABILITY], known, side="right")
    return [names[k] for k in place]

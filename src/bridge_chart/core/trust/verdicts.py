"""What may be said of a row: ahead, behind, alike, unclear or few."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.trust.discoveries import threshold

FEWEST_TO_SHOW = 10
FEWEST_FOR_VERDICT = 20
FEWEST_DF = 4.0
ALIKE_WITHIN_SD = 0.1
LEAST_RELIABILITY = 0.5
FIRM_RELIABILITY = 0.7
VERDICTS = ("behind", "ahead", "alike", "unclear", "few", "none")


@dataclass(frozen=True)
class Judging:
    """What the verdicts of some rows rest on, all (rows,), in the outcome's unit.

    span: what is drawn; gap: what is tested, with its p and df; low, high: the interval that shows
    a row to be alike. sd: the population's. family: the p-values that false discoveries are
    controlled over, these rows' and others'; None: these rows'. none: rows of which nothing is
    judged, for their span is what it is by construction. again, p_again: (times, rows) gap and p
    under other assumptions, under which a mark must hold too. reliability: of shrunken estimates;
    flat: rows between which no difference was found at all; may_judge: whether enough is behind
    them to judge any.
    """

    span: Floats
    gap: Floats
    low: Floats
    high: Floats
    p: Floats
    n: Integers
    df: Floats
    sd: float
    family: Floats | None = None
    none: Mask | None = None
    again: Floats | None = None
    p_again: Floats | None = None
    reliability: Floats | None = None
    flat: Mask | None = None
    may_judge: bool = True

    @property
    def enough(self) -> Mask:
        """(rows,) of which there is enough to judge."""
        told = (self.n >= FEWEST_FOR_VERDICT) & (self.df >= FEWEST_DF) & ~np.isnan(self.low)
        if self.reliability is not None:
            told &= self.reliability >= LEAST_RELIABILITY
        return told

    @property
    def tested(self) -> Floats:
        """The p-values that enter the family."""
        if not self.may_judge:
            return np.empty(0)
        if self.family is not None:
            return self.family
        left_out = ~self.enough if self.none is None else ~self.enough | self.none
        return np.where(left_out, np.nan, self.p)


@dataclass(frozen=True)
class Told:
    """Verdicts of rows (see VERDICTS); shaken: which of them would stand, were it not for the other
    assumptions."""

    verdicts: list[str]
    shaken: Mask


def verdicts_together(judged: Sequence[Judging]) -> list[Told]:
    """The verdicts of several measures' rows as one family: false discoveries are controlled over
    everything that one answer shows, not over each of its measures.

    ahead, behind: a discovery, of the same sign as what is drawn. alike: the interval lies inside
    ±ALIKE_WITHIN_SD·sd (Schuirmann 1987). few: n < FEWEST_FOR_VERDICT, df < FEWEST_DF, no interval,
    or reliability < LEAST_RELIABILITY. none: by construction.

    >>> def of(*row):
    ...     span, low, high, p = (np.array([x]) for x in row)
    ...     return Judging(span, span, low, high, p, np.array([50]), np.array([49.0]), 10.0)
    >>> one, dull = of(3.0, 1.0, 5.0, 0.02), of(1.0, -4.0, 6.0, 0.5)
    >>> [told.verdicts for told in verdicts_together([one])]
    [['ahead']]
    >>> [told.verdicts for told in verdicts_together([one, *[dull] * 9])][:2]
    [['unclear'], ['unclear']]
    """
    family = [one.tested for one in judged]
    cut = threshold(np.concatenate(family)) if family else 0.0
    return [_told(one, cut) for one in judged]


def verdicts(
    span: Floats, low: Floats, high: Floats, p: Floats, n: Integers, df: Floats, sd: float,
    reliability: Floats | None = None,
) -> list[str]:  # fmt: skip
    """The verdicts of rows that are a family by themselves and are tested as they are drawn; else
    as `verdicts_together`.

    >>> verdicts(*(np.array(a) for a in ([-4., .1, 2.], [-6., -.3, -1.], [-2., .5, 5.],
    ...     [.001, .6, .2], [84, 900, 41], [83., 899., 40.])), sd=10.0)
    ['behind', 'alike', 'unclear']
    """
    one = Judging(span, span, low, high, p, n, df, sd, reliability=reliability)
    return verdicts_together([one])[0].verdicts


def _told(one: Judging, cut: float) -> Told:
    rows = len(one.span)
    if not one.may_judge:
        return Told(["none"] * rows, np.zeros(rows, bool))
    nothing = np.zeros(rows, bool)
    flat = nothing if one.flat is None else one.flat
    none = nothing if one.none is None else one.none
    with np.errstate(invalid="ignore"):
        found = (one.p <= cut) & (one.gap * one.span > 0)
        holds: Mask = ~nothing
        if one.again is not None and one.p_again is not None:
            again = (one.p_again <= cut) & (one.again * one.gap > 0)
            holds = np.asarray(again.all(axis=0))
        near = (one.low >= -ALIKE_WITHIN_SD * one.sd) & (one.high <= ALIKE_WITHIN_SD * one.sd)
    stands = found & holds
    told = np.select(
        [none, ~one.enough & ~flat, flat, stands & (one.span < 0), stands, near],
        ["none", "few", "unclear", "behind", "ahead", "alike"], "unclear",
    )  # fmt: skip
    shaken = found & ~holds & one.enough & ~none
    return Told([str(verdict) for verdict in told], shaken)


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

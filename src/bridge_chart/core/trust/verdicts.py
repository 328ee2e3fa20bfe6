"""What may be said of a row: ahead, behind, alike, unclear or few."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.core.arrays import Floats, Integers, Mask
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
    sd: float | Floats,
    reliability: Floats | None = None,
) -> list[str]:
    """ahead, behind, alike, unclear or few, per row (see VERDICTS).

    ahead/behind: a discovery among these rows. alike: the interval lies inside
    ±ALIKE_WITHIN_SD·sd (Schuirmann 1987). few: n < FEWEST_FOR_VERDICT, or df < FEWEST_DF,
    or no interval, or reliability < LEAST_RELIABILITY (given for shrunken estimates).
    All (rows,) in the outcome's unit; sd is the population's, one or each row's own.

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


@dataclass(frozen=True)
class Judging:
    """What the verdicts of some rows rest on, as `verdicts` takes it, (rows,). reliability: of
    shrunken estimates. flat: rows between which no difference was found at all. may_judge: whether
    enough is behind them to judge any."""

    span: Floats
    low: Floats
    high: Floats
    p: Floats
    n: Integers
    df: Floats
    sd: float
    reliability: Floats | None = None
    flat: Mask | None = None
    may_judge: bool = True


def verdicts_together(judged: Sequence[Judging]) -> list[list[str]]:
    """The verdicts of several measures' rows as one family: false discoveries are controlled over
    everything that one answer shows, not over each of its measures.

    >>> one = Judging(*(np.array([x]) for x in (3., 1., 5., .02, 50, 49.)), sd=10.0)
    >>> [verdicts_together([one])[0], [v[0] for v in verdicts_together([one] * 2)]]
    [['ahead'], ['ahead', 'ahead']]
    >>> dull = Judging(*(np.array([x] * 9) for x in (1., -4., 6., .5, 50, 49.)), sd=10.0)
    >>> verdicts_together([one, dull])[0]
    ['unclear']
    """
    held = [one for one in judged if one.may_judge]
    if not held:
        return [["none"] * len(one.span) for one in judged]

    def all_of(of: Callable[[Judging], Floats]) -> Floats:
        return np.concatenate([np.asarray(of(one), np.float64) for one in held])

    told = verdicts(
        all_of(lambda one: one.span), all_of(lambda one: one.low), all_of(lambda one: one.high),
        all_of(lambda one: one.p), np.concatenate([one.n for one in held]),
        all_of(lambda one: one.df), all_of(lambda one: np.full(len(one.span), one.sd)),
        all_of(lambda one: np.ones(len(one.span)) if one.reliability is None
               else one.reliability),
    )  # fmt: skip
    out, at = [], 0
    for one in judged:
        if not one.may_judge:
            out.append(["none"] * len(one.span))
            continue
        mine = told[at : at + len(one.span)]
        at += len(one.span)
        flat = np.zeros(len(mine), bool) if one.flat is None else one.flat
        out.append(["unclear" if f else v for f, v in zip(flat, mine, strict=True)])
    return out


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

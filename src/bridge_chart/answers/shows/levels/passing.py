"""The share who pass: its interval, and how it stands against the others'."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import counted_code, figures_of, placed
from bridge_chart.answers.figures.ground import Ground, on_ground, tested
from bridge_chart.answers.figures.judged import chosen_by_outcome
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.sample import sample_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.what.share import share_passing
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.contrasts.rows import Contrasts, against_rest
from bridge_chart.core.trust.verdicts import Judging, verdicts_together
from bridge_chart.store.snapshot import Snapshot


@dataclass(frozen=True)
class Passing:
    """(groups,) low, high: the interval of the share, 0 to 1; others: its distance from the share
    of all others who are counted, in percentage points; verdict: beyond chance or not."""

    low: Floats
    high: Floats
    others: Contrasts
    verdict: list[str]


def passing_of(parts: Sequence[Slice]) -> list[Passing]:
    """Every part's share who pass; the verdicts of all parts are one family. Parts without a pass
    line have none."""
    if any(part.view.quantity.pass_at is None for part in parts):
        return []
    shares = [share_of(part) for part in parts]
    held = [figures_of(s.view, s.out, s.grouping, quartiles=False) for s in shares]
    tests = [_tested(share) for share in shares]
    judging = [
        Judging(
            found.value, found.value, found.low, found.high, found.p, found.n,
            np.nan_to_num(found.df), float("nan"), family, none,
        )
        for found, none, family in tests
    ]  # fmt: skip
    told = verdicts_together(judging)
    out = []
    for part, figures, (found, _, _), one in zip(parts, held, tests, told, strict=True):
        chosen = chosen_by_outcome(part.view)
        verdict = ["none"] * len(one.verdicts) if chosen else one.verdicts
        low, high = figures.interval.low / 100, figures.interval.high / 100
        out.append(Passing(low, high, found, verdict))
    return out


def share_of(part: Slice) -> Slice:
    """The part with the share who pass as its quantity."""
    view = _share_view(part.view)
    return replace(part, view=view, out=outcome(view))


def _share_view(view: View) -> View:
    share = share_passing(view.quantity)
    bound = view.elsewhere

    def elsewhere(snapshot: Snapshot) -> View:
        assert bound is not None
        return _share_view(bound(snapshot))

    return replace(
        view, quantity=share, yardstick=None, elsewhere=None if bound is None else elsewhere
    )


def gap_between(part: Slice, low: int, high: int) -> Contrasts:
    """The share of one group minus that of another, in percentage points."""
    share = share_of(part)
    grouping, sample = share.grouping, sample_of(share.view, share.out)
    both = np.zeros(len(sample.values), bool)
    both[grouping.at[np.isin(grouping.code, (low, high))]] = True
    code = np.where(grouping.code == high, 0, -1)
    return against_rest(sample, grouping.at, code, 1, both)


def _tested(share: Slice) -> tuple[Contrasts, Mask, Floats]:
    at, rows = share.grouping.at, len(share.grouping.groups)
    code = counted_code(share.out, share.grouping)

    def read(ground: Ground, places: Integers) -> tuple[Contrasts, Mask, Floats]:
        found, none = tested(ground, *placed(places, at, code), rows)
        return found, none, ground.family

    return on_ground(share.view, read, by_the_rest=True)

"""Conditions and splits by a measure: a range, levels, a boundary, a form; bands of the start."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.cut_scores import cuts_of
from bridge_chart.answers.kept import kept_for
from bridge_chart.answers.measures import Wanted
from bridge_chart.answers.normalise import Names
from bridge_chart.answers.quantities import Quantity, tested_year_level
from bridge_chart.answers.view import Filter, View
from bridge_chart.answers.yardstick import figures_of_students, held_against
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.expected.bands import bands
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q

BANDS = ("low", "middle", "high")


def by_measure(c: q.MeasureIs, view: View) -> Filter:
    """Students whose value on a measure meets the condition; the unit is always said."""
    names = Names(view.snapshot, view.sets)
    own = names.quantity(c.measure, Wanted(steps=c.level is not None))
    values = np.asarray(figures_of_students(view.snapshot, own))
    mask = ~np.isnan(values)
    words: list[str] = []
    if c.level is not None:
        wanted = [own.steps.index(str(level)) + 1 for level in c.level]
        mask &= np.isin(values, wanted)
        words.append(" or ".join(str(level) for level in c.level))
    span = isinstance(c.measure, q.Derived) and c.measure.derive == "span"
    if span and own.of is not None and (c.from_, c.to, c.above, c.below) == (None, None, None, 0):
        return Filter(mask & (values < 0), f"below expectation in {own.of.label}")
    ranged = False
    for bound, word, test in (
        (c.from_, "at least", np.greater_equal),
        (c.to, "at most", np.less_equal),
        (c.above, "above", np.greater),
        (c.below, "below", np.less),
    ):
        if bound is not None:
            mask &= test(np.nan_to_num(values, nan=0.0), bound)
            words.append(f"{word} {bound:g}")
            ranged = True
    if ranged:
        words[-1] += f" {own.unit}"
    if c.boundary is not None:
        assert c.within is not None
        mask &= _near(view.snapshot, own, values, c)
        side = {"below": "below", "above": "at or above"}.get(c.side or "", "around")
        words.append(f"within {c.within:g} {own.unit} {side} {c.boundary}")
    if c.form is not None:
        mask &= np.asarray(view.snapshot.form(own.key)) == c.form
        words.append(f"form {next(f.name for f in own.key.forms if f.id == c.form)}")
    return Filter(mask, f"{own.label}: {' and '.join(words)}")


def _near(snapshot: Snapshot, own: Quantity, values: Floats, c: q.MeasureIs) -> Mask:
    """Below: from cut − within up to the cut itself, without it; above: from the cut on."""
    assert c.within is not None
    distance = values - cuts_of(
        snapshot, own.key, str(c.boundary), tested_year_level(snapshot, own.key)
    )
    distance = np.nan_to_num(distance, nan=np.inf)
    below = (distance < 0) & (distance >= -c.within)
    above = (distance >= 0) & (distance <= c.within)
    return np.asarray({"below": below, "above": above}.get(c.side or "both", below | above))


def by_band(c: q.BandIs, view: View) -> Filter:
    own = Names(view.snapshot, view.sets).quantity(c.band)
    band = bands_of(view.snapshot, own, view.measure)
    wanted = [-1 if v is None else BANDS.index(v) for v in c.in_]
    words = " or ".join(v or "not known" for v in c.in_)
    return Filter(np.isin(band, wanted), f"start in {own.label}: {words}")


def start_of(view: View) -> Quantity:
    """The measure that students started with: the yardstick's first prior, else the declared."""
    held = held_against(view.snapshot, view.quantity, view.against)
    if held is not None and held.fit is not None:
        return held.fit.priors[0]
    return Names(view.snapshot, view.sets).declared_priors(view.quantity)[0]


def bands_of(snapshot: Snapshot, prior: Quantity, key: MeasureKey) -> Integers:
    """(students,) −1 not known, 0 low, 1 middle, 2 high: thirds of the district, apart in each
    year level at the sitting `key`, so that every year level has all three."""
    name = f"bands {prior.name} at {key.key}"
    return kept_for(snapshot, name, lambda: _bands(snapshot, prior, key))


def _bands(snapshot: Snapshot, prior: Quantity, key: MeasureKey) -> Integers:
    values = np.asarray(figures_of_students(snapshot, prior))
    levels = np.asarray(tested_year_level(snapshot, key))
    out = np.full(snapshot.students, -1, np.int64)
    for level in np.unique(levels):
        at = np.flatnonzero(levels == level)
        if np.isfinite(values[at]).sum() >= len(BANDS):
            out[at] = bands(values[at]).band
    return out

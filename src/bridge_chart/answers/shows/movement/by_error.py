"""The credit that error of measurement alone would give: what a second sitting of the same students
would earn, had nobody changed."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.against.start_error import start_reliability
from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.published.fits import fitted
from bridge_chart.answers.what.credit import Rule, places
from bridge_chart.answers.what.cut_scores import ANY, cut_sets
from bridge_chart.answers.what.values import sibling, tested_year_level
from bridge_chart.core.arrays import Floats
from bridge_chart.core.growth.movement import levels_by_error_alone
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.store.reference_tables import tidy
from bridge_chart.store.snapshot import MeasureKey, Snapshot

HALF = "error alone is worked out for whole levels"


def credit_by_error(snapshot: Snapshot, earlier: Quantity, rule: Rule) -> tuple[Floats, str]:
    """(students,) 0 to 1, NaN where it is not known, and why it is for nobody."""
    if earlier.id.grain == "half":
        return np.full(snapshot.students, np.nan), HALF
    found = sibling(snapshot, earlier.key, IN_FIGURES)
    if found is None:
        return np.full(snapshot.students, np.nan), f"{earlier.label} has no score in figures"
    key = found

    def make(whole: Snapshot) -> Floats:
        return _by_error(whole, earlier, key, rule)

    name = ("credit by error", earlier.id, rule.name, rule.credit.tobytes())
    credit = fitted(
        snapshot, name, make, lambda made, own: own.take(made, earlier.key, np.nan),
        of=(earlier.key,),
    )  # fmt: skip
    lacks = f"how exact {key.label} is has not been declared, or its levels have no cut scores"
    return credit, lacks if np.isnan(credit).all() else ""


def _by_error(snapshot: Snapshot, earlier: Quantity, key: MeasureKey, rule: Rule) -> Floats:
    scores = np.asarray(snapshot.values(key), np.float64)
    levels = np.asarray(tested_year_level(snapshot, key))
    exact = start_reliability(snapshot, (plain(key),))
    before, out = places(snapshot, earlier), np.full(snapshot.students, np.nan)
    steps = [tidy(name) for name in earlier.steps]
    for held in cut_sets(snapshot, key):
        lowest = {tidy(cut.step): cut.lowest for cut in held.cuts}
        if any(step not in lowest for step in steps[1:]):
            continue
        mine = held.holds_for(snapshot, key, levels) & ~np.isnan(scores) & (before >= 0)
        for level in np.unique(levels[mine]) if held.year_level == ANY else [held.year_level]:
            here = mine & (levels == level) & ~np.isnan(exact)
            if np.count_nonzero(here) < 2:
                continue
            mean, sd = float(scores[here].mean()), float(scores[here].std())
            error = sd * float(np.sqrt(1 - exact[here].mean()))
            if not error < sd:
                continue
            cuts = np.array([lowest[step] for step in steps[1:]])
            chance = levels_by_error_alone(scores[here], cuts, mean, sd, error)
            out[here] = (chance * rule.credit[before[here]]).sum(axis=1)
    return out

"""Shrunken rows: the multilevel model, where the split is one of its levels."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np

from bridge_chart.answers.against.covariates import as_columns
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.figures.outcome import Outcome, outcome_of
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.taught import taught
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.distributions import t_two_sided
from bridge_chart.core.expected.design import Form, prior_form
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT, LEAST_RELIABILITY
from bridge_chart.core.value_added.multilevel import GroupEffects, multilevel
from bridge_chart.core.value_added.ranks import rank_intervals
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.words import spoken

FEWEST_FOR_LEVEL = 60
LEVELS = ("school", "class", "year_level")


@dataclass(frozen=True)
class Pooled:
    """Per group of a split: estimate, se, interval, reliability and rank; NaN where none. family:
    the p-values of every group of the model."""

    estimate: Floats
    se: Floats
    low: Floats
    high: Floats
    reliability: Floats
    rank: Floats
    rank_low: Floats
    rank_high: Floats
    may_judge: bool
    family: Floats


def why_not_pooled(view: View, grouping: Grouping) -> str | None:
    """Why rows are not shrunken though the question asks for the model; None: they are."""
    split = [one.asked for one in view.split]
    if len(split) != 1 or not isinstance(split[0], q.ByField):
        return "the split is no level of the model"
    if split[0].field not in ("school", "class"):
        return "the split is no level of the model"
    if split[0].as_of is not None or view.question.who.as_of not in (None, "sitting"):
        return "the groups are not those of the sitting"
    if grouping.overlaps:
        return "some students are in several groups"
    for c in (one.asked for one in view.who):
        if not isinstance(c, q.FieldIs) or c.as_of is not None or c.field not in LEVELS:
            return "only some students of each group are looked at"
    if len(_levels(view)) != 1:
        return f"several {spoken().year_levels} are mixed"
    return None


def _levels(view: View) -> list[int]:
    """The year levels that the conditions leave; −1 where the rosters say none of anybody."""
    levels = set(_tested(view).tolist()) - {-1} or {-1}
    for c in (one.asked for one in view.who):
        if isinstance(c, q.FieldIs) and c.field == "year_level":
            if c.in_ is not None:
                levels &= {int(v) for v in c.in_ if v is not None}
            else:
                low = c.from_ if c.from_ is not None else 0
                levels &= set(range(low, (c.to if c.to is not None else 127) + 1))
    return sorted(levels)


def pooled(view: View, out: Outcome, grouping: Grouping) -> Pooled | None:
    """The rows of a split by school or class, from a model of the district's whole year level;
    the question's conditions choose rows of it and never refit it."""
    if why_not_pooled(view, grouping) is not None:
        return None
    split = view.split[0].asked
    assert isinstance(split, q.ByField)
    assert view.yardstick is not None
    field, level = split.field, _levels(view)[0]
    found = _effects(view, view.yardstick, field, level)
    if found is None:
        return None
    effects, place = found.effects, {identity: n for n, identity in enumerate(found.ids)}
    keys = [group.key for group in grouping.groups]
    at = np.array([place.get(n, -1) if kind == field else -1 for kind, n in keys], np.int64)
    if not (at >= 0).any():
        return None
    ranks = rank_intervals(_only(effects, at[at >= 0]))

    def pick(values: Floats) -> Floats:
        return np.where(at >= 0, values[np.maximum(at, 0)], np.nan)

    def rank(values: Floats) -> Floats:
        out = np.full(len(at), np.nan)
        out[at >= 0] = values
        return out

    return Pooled(
        pick(effects.estimate), pick(effects.comparative_se), pick(effects.low),
        pick(effects.high), pick(effects.reliability), rank(ranks.expected), rank(ranks.low),
        rank(ranks.high), effects.may_judge, found.family,
    )  # fmt: skip


def _only(effects: GroupEffects, at: Integers) -> GroupEffects:
    """The groups that the rows show: a rank is one among these."""
    every = {f.name: getattr(effects, f.name) for f in fields(effects) if f.name != "inverse"}
    mine: dict[str, Any] = {
        name: value[at] for name, value in every.items() if isinstance(value, np.ndarray)
    }
    return replace(effects, **mine)


def _tested(view: View) -> Integers:
    """The year levels that the district sat it in."""
    measure = view.measure
    return fitted(
        view.snapshot, ("year levels", measure.key),
        lambda whole: np.unique(np.asarray(tested_year_level(whole, measure)).astype(np.int64)),
        lambda made, _: made,
    )  # fmt: skip


@dataclass(frozen=True)
class Effects:
    """The groups of a fitted year level by their ids; behind: (students,) who is in the fit;
    family: the p-values of all of its groups that are large enough to be judged."""

    effects: GroupEffects
    ids: tuple[int, ...]
    behind: Mask
    family: Floats


def _effects(view: View, yardstick: Yardstick, field: str, level: int) -> Effects | None:
    """Effects of the groups that may be seen, from a model of the whole district's."""

    def own_part(made: Effects | None, own: Own) -> Effects | None:
        if made is None or not own.enough(made.behind, view.measure):
            return None
        mine = set(own.ids(field))
        held = [n for n, identity in enumerate(made.ids) if identity in mine]
        ids = tuple(made.ids[n] for n in held)
        mine_only = _only(made.effects, np.array(held, np.int64))
        return Effects(mine_only, ids, made.behind[:0], made.family)

    return fitted(
        view.snapshot, ("pooled", view.quantity.id, yardstick.key, field, level),
        lambda whole: _fit(whole, view, yardstick, field, level), own_part,
        (view.measure, *(prior.key for prior in yardstick.priors)),
    )  # fmt: skip


def _fit(
    whole: Snapshot, view: View, yardstick: Yardstick, field: str, level: int
) -> Effects | None:
    """Effects of the groups of one year level of the district; None where too few students have
    all priors."""
    quantity = view.quantity
    out, roll = outcome_of(whole, quantity, yardstick), whole.roll_at(quantity.key.date)
    if roll is None or out.held is None or out.held.fit is None:
        return None
    if field == "school":
        known, place = [s.id for s in whole.schools], np.asarray(roll.school).astype(np.int64)
    else:
        known, place = [c.id for c in whole.classes], np.full(whole.students, -1, np.int64)
        place[roll.members[:, 0]] = roll.members[:, 1]
    fit = out.held.fit
    priors = [np.asarray(figures_of_students(whole, prior)) for prior in fit.priors]
    tested = np.asarray(tested_year_level(whole, quantity.key))
    use = ~np.isnan(out.drawn) & (tested == level) & (place >= 0)
    use &= ~np.isnan(np.stack(priors)).any(axis=0)
    if use.sum() < FEWEST_FOR_LEVEL:
        return None
    identities, codes = np.unique(place[use], return_inverse=True)
    codes = np.asarray(codes, np.int64)
    shape: Form = "linear" if fit.form == "equal_scores" else fit.form
    forms = [(prior[use], prior_form(prior[use], shape)) for prior in priors]
    columns = [form.columns(prior) for prior, form in forms if form is not None]
    if fit.marks is not None:
        columns.append(as_columns(fit.marks[use]))
    if not columns or len(identities) < 2:
        return None
    found = _groups_of(whole, quantity, out.values, np.concatenate(columns, 1), use, field, codes)
    with np.errstate(invalid="ignore", divide="ignore"):
        p = t_two_sided(found.estimate / found.comparative_se, np.full(len(found.n), np.inf))
    enough = (found.n >= FEWEST_FOR_VERDICT) & (found.reliability >= LEAST_RELIABILITY)
    return Effects(found, tuple(known[n] for n in identities.tolist()), use, p[enough])


def _groups_of(
    whole: Snapshot, quantity: Quantity, values: Floats, columns: Floats, use: Mask, field: str,
    codes: Integers,
) -> GroupEffects:  # fmt: skip
    """Effects of classes, or of schools with the classes in them as a level of their own, where
    they are known."""
    count = int(codes.max()) + 1
    if field == "school":
        classes = np.asarray(taught(whole, quantity.key).classes)[use]
        # Those in no class are one of their school.
        named = np.where(classes >= 0, classes, -1 - codes)
        inner, place = np.unique(named, return_inverse=True)
        school = np.empty(len(inner), np.int64)
        school[place] = codes
        several = np.bincount(school).max() > 1
        nested = bool((school[place] == codes).all())
        if several and nested:
            model = multilevel(values[use], columns, place, len(inner), school)
            assert model.schools is not None
            return model.schools
    return multilevel(values[use], columns, codes, count).classes

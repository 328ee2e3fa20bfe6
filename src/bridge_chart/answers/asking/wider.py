"""The district beside a part of it: what a narrower role's rows stand above, and are held against.

The one place where a question is bound to a release as a whole; `answers.published.cells` says
what of it may be shown, and only that leaves here. A question that asks finer is told so, and
what the nearest is that is published.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from bridge_chart.access.releases import Published, Released
from bridge_chart.access.since import changed_enough
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import Bound, View, Wider
from bridge_chart.answers.bound.yardstick import Elsewhere
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.published.cells import Crowd, shown_set, shown_values
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.answers.what.measures import changed, innermost
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.answers.who.population import THROUGH_CLASSES
from bridge_chart.core.arrays import Integers, Mask
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound, NotPublished, NotYet
from bridge_chart.terms.wording import day
from bridge_chart.terms.words import spoken

Bind = Callable[[q.Question, Snapshot], Bound]
STEPPED = next(show.name for show in SHOWS.values() if show.steps)
PLACES = ("school", "class", "teacher", "student")
KINDS = (
    q.AgainstPrior, q.AgainstEarlier, q.AgainstTarget, q.AgainstPredicted, q.AgainstNation
)  # fmt: skip
"""Yardsticks that a published row may be held against."""


@dataclass(frozen=True)
class Asked:
    """What is asked of the wider population: conditions on year levels, at most one on a
    characteristic; `levels`: only these year levels, where a class is asked about."""

    conditions: tuple[q.Condition, ...]
    characteristic: q.CharacteristicIs | None
    what: q.What
    against: q.Yardstick | None
    levels: tuple[int, ...] | None = None


@dataclass(frozen=True)
class Outlook:
    """What a narrower role may be shown of others, and how a question is bound to it."""

    bind: Bind
    published: Published


def wider_of(
    outlook: Outlook, question: q.Question, quantity: Quantity, levels: Sequence[int]
) -> Wider:
    """The published students that a question's reference row is about."""
    instead = _instead(question, quantity)
    found = _asked(question, quantity, levels, instead)
    return _from_release(outlook, found, quantity, instead)


def group_elsewhere(
    outlook: Outlook, group: q.AgainstGroup, quantity: Quantity, members: Filter, ids: Integers
) -> Elsewhere | None:
    """The published students of a group who are not among the asker's own members (`ids`: of the
    asker's students)."""
    who = group.group.who
    if names_a_place(who):
        return None
    asked = q.Question(who=who, what=(quantity.ask,))
    kept = q.Who(all_=_kept(who.all_))
    nearest = q.AgainstGroup(group=group.group.model_copy(update={"who": kept}))
    instead = _plain({"against": nearest})
    wide = _from_release(outlook, _asked(asked, quantity, (), instead), quantity, instead)
    whole = wide.view.snapshot
    others = wide.mask & ~np.isin(whole.student_ids, np.asarray(ids)[members.mask])
    values = figures_of_students(whole, wide.view.quantity)[others]
    values = values[~np.isnan(values)]
    if len(values) < 2:
        return None
    return Elsewhere(len(values), float(values.mean()), float(values.std(ddof=1)), wide.day)


def names_a_place(who: q.Who) -> bool:
    """Whether a population is of a place, a group or chosen students: it is the asker's own."""
    return any(_is_place(c) for c in who.all_)


def _is_place(c: q.Condition) -> bool:
    return isinstance(c, q.InSet) or (isinstance(c, q.FieldIs) and c.field in PLACES)


def _asked(
    question: q.Question, quantity: Quantity, levels: Sequence[int], instead: dict[str, Any]
) -> Asked:
    """A question as a cell; NotPublished where it is finer."""
    why = _too_fine(question, quantity)
    if why:
        raise NotPublished(
            f"The district's figures are not published so fine: {why}.",
            next_step="Ask the nearest that is published.",
            instead=instead,
        )
    through = any(isinstance(c, q.FieldIs) and c.field in THROUGH_CLASSES
                  for c in question.who.all_)  # fmt: skip
    kept = [c for c in question.who.all_ if not _is_place(c)]
    by = next((c for c in kept if isinstance(c, q.CharacteristicIs)), None)
    against = question.against if isinstance(question.against, KINDS) else None
    return Asked(
        tuple(c for c in kept if isinstance(c, q.FieldIs)), by, quantity.ask, against,
        tuple(levels) if through else None,
    )  # fmt: skip


def _too_fine(question: q.Question, quantity: Quantity) -> str:
    """Why a question is finer than what is published; empty where it is not."""
    rest = [c for c in question.who.all_ if not _is_place(c)]
    by = [c for c in rest if isinstance(c, q.CharacteristicIs)]
    years = [c for c in rest if isinstance(c, q.FieldIs) and c.field == "year_level"]
    own, m = quantity.id, innermost(quantity.ask)
    share_of_level = own.working is not None and own.working.how == "share" and isinstance(
        own.working.cut, str
    )  # fmt: skip
    dated = any(c.as_of is not None for c in by) or any(c.as_of is not None for c in years)
    singly = isinstance(question.against, q.AgainstPrior) and (
        question.against.prior.expect == "equal_scores"
    )
    few = len(rest) == len(by) + len(years) and len(by) < 2
    reasons = {
        f"only by {spoken().year_level} and one characteristic": not few,
        "only as of the sitting": dated or question.who.as_of not in (None, "sitting"),
        "only for all who have the score": question.cohort == "matched" or m.form is not None,
        "only scores, levels and shares at a level": own.working is not None and not share_of_level,
        "only against lines and curves": singly,
    }
    return next((why for why, holds in reasons.items() if holds), "")


def _instead(question: q.Question, quantity: Quantity) -> dict[str, Any]:
    """The changes that make a question one whose district is published."""
    plain = changed(quantity.plain.ask, form=None)
    places = [c for c in question.who.all_ if _is_place(c)]
    to: dict[str, Any] = {
        "who": q.Who(all_=(*places, *_kept(question.who.all_))), "what": (plain,),
        "cohort": "present",
    }  # fmt: skip
    if isinstance(question.against, q.AgainstPrior):
        to["against"] = q.AgainstPrior(prior=q.PriorSpec())
    return _plain(to)


def _kept(conditions: Sequence[q.Condition]) -> tuple[q.Condition, ...]:
    """Those conditions that a cell may have, as of the sitting."""
    now = {"as_of": None}
    years = [
        c.model_copy(update=now)
        for c in conditions
        if isinstance(c, q.FieldIs) and c.field == "year_level"
    ]
    by = [c.model_copy(update=now) for c in conditions if isinstance(c, q.CharacteristicIs)]
    return (*years, *by[:1])


def _plain(changes: dict[str, Any]) -> dict[str, Any]:
    """Changes of a question as JSON values."""
    asked = q.Question.model_construct(**{"what": (), **changes})
    written = asked.model_dump(mode="json", by_alias=True, exclude_unset=True)
    return {key: written[key] for key in changes}


def _from_release(
    outlook: Outlook, asked: Asked, quantity: Quantity, instead: dict[str, Any]
) -> Wider:
    published = outlook.published
    if not published.released:
        raise NotPublished(
            "The district's figures have not been released yet.",
            next_step="The district's data lead releases them at Setup.",
        )
    source = _source(published, quantity)
    outside = source.loaded[1]
    try:
        to_bind = q.Question(
            who=q.Who(all_=asked.conditions), what=(asked.what,), against=asked.against,
            show=STEPPED if quantity.steps else "spans",
        )  # fmt: skip
        view = outlook.bind(to_bind, outside.whole).views[0]
        declared = _by_what_is_declared(outlook, to_bind, view)
    except (NotFound, InvalidQuestion, NotYet) as error:
        raise NotPublished(
            f"The release of {day(source.release.day)} does not have this: {error.message}",
            next_step="It is published with the next release.",
        ) from error
    if not declared:
        raise NotPublished(
            "The district's figures are not published so fine: only against the start that the "
            "test declares, or an earlier sitting of it.",
            next_step="Ask the nearest that is published.",
            instead={**instead, "against": {"prior": {}}},
        )
    mask, left_out = _published(view, source, asked)
    if not mask.any():
        raise NotPublished(
            "Too few students of other schools are behind the district's figure to publish it.",
            next_step="Ask the nearest that is published.", instead=instead,
        )  # fmt: skip
    return Wider(view, mask, source.release.day, tuple(left_out))


def _by_what_is_declared(outlook: Outlook, asked: q.Question, view: View) -> bool:
    """Whether the yardstick is one of those that everybody has: starts and earlier results of
    one's own choice would make as many sets of students as there are tests."""
    if isinstance(asked.against, q.AgainstEarlier):
        mine, before = view.measure, asked.against.earlier.measure
        keys = [k for k in view.snapshot.measures if k.date < mine.date]
        same = {k.sitting.id for k in keys if (k.assessment, k.subject)
                == (mine.assessment, mine.subject)}  # fmt: skip
        return isinstance(before, q.Measure) and before.part is None and before.sitting in same
    if not isinstance(asked.against, q.AgainstPrior) or view.yardstick is None:
        return True
    usual = q.AgainstPrior(prior=q.PriorSpec())
    other = outlook.bind(asked.model_copy(update={"against": usual}), view.snapshot).views[0]
    starts = [[p.id for p in one.yardstick.priors] for one in (view, other) if one.yardstick]
    return starts[0] == starts[-1]


def _source(published: Published, quantity: Quantity) -> Released:
    """The newest release whose cells of this sitting differ from those published before it in
    nobody, or in so many that the difference tells nobody's."""
    held = published.released[0]
    for later in published.released[1:]:
        before, after = held.loaded[1].whole, later.loaded[1].whole
        if changed_enough(before, after, quantity.key.sitting.id):
            held = later
    return held


def _published(view: View, source: Released, asked: Asked) -> tuple[Mask, list[int]]:
    """The students of every published cell that is asked for, and the year levels held back."""
    whole, roll, (own, outside) = view.snapshot, view.roll, source.loaded
    crowd = Crowd(np.asarray(roll.school), outside.known(own, view.measure))
    people = np.asarray(roll.school >= 0) & view.meant
    for one in view.who:
        people &= one.mask
    counted = people & (outcome(view).reasons == 0)
    levels = np.asarray(roll.year_level)
    sets = _sets(view)
    mask, left_out = np.zeros(whole.students, bool), []
    for level in np.unique(levels[people]).tolist():
        if asked.levels is not None and level not in asked.levels:
            continue
        here = people & (levels == level)
        cell = _cell(view, crowd, asked, here, counted)
        fits = cell is not None and all(
            shown_set(crowd, [one & inside for one in sets], counted & inside)
            for inside in (here, cell)
        )
        if cell is None or not fits or not crowd.hides(cell & counted):
            left_out.append(level)
            continue
        mask |= cell
    return mask, left_out


def _cell(view: View, crowd: Crowd, asked: Asked, here: Mask, counted: Mask) -> Mask | None:
    """Who of a year level is in the cell that is asked for; None where it is held back."""
    held = here & ~np.isnan(figures_of_students(view.snapshot, view.quantity.plain))
    if not crowd.hides(held):
        return None
    if asked.characteristic is None:
        return here
    identity = int(asked.characteristic.characteristic)
    item = next(c for c in view.snapshot.characteristics if c.id == identity)
    place = {option.id: n for n, option in enumerate(item.options)}
    wanted = {-1 if v is None else place.get(int(v), -2) for v in asked.characteristic.in_}
    values = np.asarray(view.roll.characteristic(identity, view.snapshot.students))
    if not all(wanted <= shown_values(crowd, behind, values) for behind in (held, here & counted)):
        return None
    return here & np.isin(values, sorted(wanted))


def _sets(view: View) -> list[Mask]:
    """The sets of students whose figures at a sitting may be asked for, in a fixed order: with
    each score, with each target or prediction, with each earlier result, with the nation's."""
    snapshot, own = view.snapshot, view.measure
    of_sitting = [m for m in snapshot.measures if m.sitting == own.sitting]
    results = [~np.isnan(snapshot.values(m)) for m in of_sitting if m.role == "result"]
    claims = [~np.isnan(snapshot.values(m)) for m in of_sitting if m.role != "result"]
    before = [
        ~np.isnan(snapshot.values(m))
        for m in sorted(snapshot.measures, key=lambda m: (m.date, m.key))
        if m.date < own.date
        and m.role == "result"
        and (m.assessment, m.subject) == (own.assessment, own.subject)
    ]
    mine = ~np.isnan(figures_of_students(snapshot, view.quantity.plain))
    both = [mine & other for other in (*claims, *before)]
    return [mine, *results, *both, outcome(view).reasons == 0]

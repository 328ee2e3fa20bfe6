"""What would it take? And what would be then, of every group, with the model as it is?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from bridge_chart.answers.against.fit import expectation
from bridge_chart.answers.against.prior import WhereTheyStarted
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.trial.before import (
    Earlier,
    earlier_of,
    happened_to,
    later_in_same_steps,
)
from bridge_chart.answers.shows.trial.body import NearStudent, TrialBody, TrialOptions, TriedRow
from bridge_chart.answers.shows.trial.group import (
    TriedGroup,
    Wanted,
    as_far_as_it_takes,
    distance_of,
    group_of,
    nearest,
    untried,
    wanted_of,
)
from bridge_chart.answers.shows.trial.words import asks, trial_method, trial_readings
from bridge_chart.answers.what.share import share_from
from bridge_chart.answers.what.tried import edits_of
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.targets.nearest import Nearest
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark, Row

MOST_NEAR = 60
"""Students that a body lists: the moved, then the next; a list has all of them."""


def trial_shown(parts: Sequence[Slice]) -> Shown:
    """One measure in levels or grades; the moves of the question, or the nearest that it takes."""
    part = untried(parts[0])
    options = TrialOptions.model_validate(part.view.question.options)
    group = group_of(part, options)
    wanted, earlier = wanted_of(group, options), earlier_of(group)
    distance, unit = distance_of(group, earlier.chance)
    found = nearest(group, wanted, distance)
    few, spread = as_far_as_it_takes(group, wanted, distance)
    moves = _moves(parts[0], group, found, few.steps if few.reachable else None, spread, options)
    body = _body(
        group, wanted, earlier, found, moves, distance, unit,
        any_students=few.moved if few.reachable else None,
        any_steps=None if spread is None else int(spread.sum()),
    )  # fmt: skip
    covered = [coverage(part.view, part.people, part.out.reasons)]
    return Shown(
        body=body, coverage=covered, readings=trial_readings(body, options),
        method=trial_method(part.view, body), warnings=warnings_of([part], covered, []),
        sentence=asks,
    )  # fmt: skip


def _moves(
    asked: Slice, group: TriedGroup, found: Nearest, few: Integers | None, spread: Integers | None,
    options: TrialOptions,
) -> dict[int, int]:  # fmt: skip
    """By position in the snapshot how many steps each is moved."""
    plan = asked.view.question.plan
    if plan is not None and asked.view.snapshot.edits is not None:
        ids = np.asarray(group.part.view.snapshot.student_ids)
        return {int(np.searchsorted(ids, m.student)): m.by for m in plan.moves if m.by}
    steps = found.steps
    if options.each == "any":
        wanted = few if options.fewest == "students" else spread
        steps = np.zeros(len(group.at), np.int64) if wanted is None else wanted
    return {int(group.at[n]): int(steps[n]) for n in np.flatnonzero(steps)}


def _body(
    group: TriedGroup, wanted: Wanted, earlier: Earlier, found: Nearest, moves: Mapping[int, int],
    distance: Floats, unit: str, *, any_students: int | None, any_steps: int | None,
) -> TrialBody:  # fmt: skip
    view = group.part.view
    snapshot, quantity = view.snapshot, group.quantity
    by = np.array([moves.get(int(at), 0) for at in group.at], np.int64)
    tried = np.clip(group.place + by, 0, len(quantity.steps) - 1)
    ids = np.asarray(snapshot.student_ids)
    moved = [q.Move(student=int(ids[at]), by=steps) for at, steps in sorted(moves.items())]
    share = group.figure == "share"
    everybody = q.Open(what=view.stands, students=tuple(int(ids[at]) for at in group.at))
    movers = q.Open(what=view.stands, students=tuple(sorted(move.student for move in moved)))
    n = len(group.at)
    few = n < FEWEST_TO_SHOW
    return TrialBody(
        show="trial", dimension=group.part.grouping.label, figure=group.figure,
        unit="share" if share else "steps", step=quantity.steps[group.cut],
        group=Mark(n=n, opens=everybody if n else None),
        now=None if few else group.of_places(group.place),
        with_try=None if few else group.of_places(tried),
        wanted=None if few else wanted.value, wanted_words=wanted.words,
        needed=found.needed, reachable=found.reachable, any_students=any_students,
        any_steps=any_steps, moved=len(moved), steps=sum(move.by for move in moved),
        by_hand=view.question.plan is not None, moves=moved,
        movers=Mark(n=len(moved), opens=movers if moved else None),
        curve=[] if few else [float(x) for x in found.figure],
        near=_near(group, found, moves, distance, earlier),
        distance_words=unit, chance_words=earlier.chance_words,
        before=None if few else earlier.before, before_because=earlier.because,
        refit=None if few else _refit(group, moves, tried),
        rows=_rows(group, moves),
        happened=happened_to(
            snapshot, quantity, later_in_same_steps(snapshot, quantity), dict(moves)
        ) if moves else None,
    )  # fmt: skip


def _near(
    group: TriedGroup, found: Nearest, moves: Mapping[int, int], distance: Floats, earlier: Earlier
) -> list[NearStudent]:
    """The moved nearest first, then who would be next."""
    steps, ids = group.quantity.steps, np.asarray(group.part.view.snapshot.student_ids)
    order = found.order.tolist()
    others = [n for n in range(len(group.at)) if int(group.at[n]) in moves and n not in {*order}]
    listed = sorted([*order, *others], key=lambda n: int(group.at[n]) not in moves)
    out = []
    for n in listed[:MOST_NEAR]:
        by, place = moves.get(int(group.at[n]), 0), int(group.place[n])
        chance = float(earlier.chance[place])
        out.append(
            NearStudent(
                student=int(ids[group.at[n]]), now=steps[place], by=by,
                tried=steps[min(max(place + by, 0), len(steps) - 1)],
                distance=None if np.isnan(distance[n]) else float(distance[n]),
                chance=None if np.isnan(chance) else chance,
            )
        )  # fmt: skip
    return out


def _refit(group: TriedGroup, moves: Mapping[int, int], tried: Integers) -> float | None:
    """The figure with the try, were the expectation fitted on it too; only where the whole district
    is seen, and a start is the yardstick."""
    view = group.part.view
    held, snapshot = view.yardstick, view.snapshot
    if not isinstance(held, WhereTheyStarted) or group.figure == "share" or not moves:
        return None
    if not snapshot.scope.whole:
        return None
    ids = np.asarray(snapshot.student_ids)
    steps = {int(ids[at]): by for at, by in moves.items()}
    again = snapshot.tried(edits_of(snapshot, group.quantity, steps, refit=True))
    covariates = tuple(int(one) for one in held.asked.prior.covariates)
    fit = expectation(again, held.fitted, held.starts, held.form, None, covariates)
    apart = tried + 1 - fit.expected[group.at]
    return float(apart[~np.isnan(apart)].mean()) if (~np.isnan(apart)).any() else None


def _rows(group: TriedGroup, moves: Mapping[int, int]) -> list[TriedRow]:
    """Every group of the split, without and with the try; the model stays as it is."""
    part = _figured(group.part, group)
    snapshot = part.view.snapshot
    ids = np.asarray(snapshot.student_ids)
    steps = {int(ids[at]): by for at, by in moves.items()}
    then = part
    if steps:
        edits = edits_of(snapshot, group.quantity, steps)
        view = group.part.view.on(snapshot.tried(edits))
        then = _figured(replace(group.part, view=view, out=outcome(view)), group)
    moved = np.zeros(snapshot.students, bool)
    moved[list(moves)] = True
    return [
        _row(part, n, before, after, moved, share=group.figure == "share")
        for n, (before, after) in enumerate(zip(rows_of(part), rows_of(then), strict=True))
    ]


def _figured(part: Slice, group: TriedGroup) -> Slice:
    """The part with what is tried as its quantity: the steps themselves, or who reaches one."""
    if group.figure == "mean":
        return part
    view = replace(
        part.view, quantity=share_from(part.view.quantity, group.cut), yardstick=None,
    )  # fmt: skip
    return replace(part, view=view, out=outcome(view))


def _row(
    part: Slice, n: int, before: Row, after: Row, moved: np.ndarray, *, share: bool
) -> TriedRow:
    grouping = part.grouping
    mine = grouping.at[grouping.code == n]
    scale = 0.01 if share else 1.0

    def told(value: float | None) -> float | None:
        return None if value is None else scale * value

    spans = part.view.yardstick is not None
    return TriedRow(
        key=before.key, label=before.label, path=before.path, n=before.n, missing=before.missing,
        moved=int(moved[mine].sum()), opens=opens(part.view, grouping.groups[n]),
        now=told(before.span if spans else before.value),
        tried=told(after.span if spans else after.value),
        low=told(after.low), high=told(after.high),
        verdict_now=before.verdict, verdict=after.verdict, undefined=before.undefined,
    )  # fmt: skip

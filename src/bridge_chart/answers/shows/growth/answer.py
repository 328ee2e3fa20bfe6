"""How far did they grow: beside similar starters, the table's growth, and the nation?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from bridge_chart.answers.against.by_table import Growth
from bridge_chart.answers.against.prior import WhereTheyStarted
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.figures.figures import Figures, figures_of
from bridge_chart.answers.figures.order import in_order
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.pinned import pinned_slices
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.growth.body import (
    Fell,
    GrowthBody,
    GrowthOptions,
    GrowthRow,
    Met,
)
from bridge_chart.answers.shows.growth.nation import InTheNation, in_the_nation
from bridge_chart.answers.shows.growth.words import growth_method, growth_readings
from bridge_chart.answers.shows.movement.answer import BEFORE
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.derived import growth_of, status_of
from bridge_chart.answers.what.expected_tables import goals_of
from bridge_chart.answers.what.growth import grown
from bridge_chart.answers.what.pace import sittings_until
from bridge_chart.answers.what.share import share_from
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.growth.percentiles import FEWEST_TO_FIT, growth_of_groups
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.words import spoken

SORTABLE = ("label", "n", "missing", "median", "span", "value", "mean", "change")
Goal = Literal["expected", "ambitious"]


@dataclass(frozen=True)
class _Grew:
    """A part with where it came from. percentile: (students,) growth percentiles."""

    part: Slice
    earlier: Quantity
    starts: tuple[Quantity, ...]
    percentile: Floats
    nation: InTheNation
    goals: tuple[Goal, ...]


def growth_shown(parts: Sequence[Slice]) -> Shown:
    """One measure in figures against an earlier sitting of it."""
    part = parts[0]
    view = part.view
    if view.yardstick is None or view.yardstick.since is None:
        raise InvalidQuestion(
            "Growth is from an earlier sitting to this one.",
            next_step="Measure it against the sitting before.", instead={"against": BEFORE},
        )  # fmt: skip
    earlier = view.yardstick.since
    options = GrowthOptions.model_validate(view.question.options)
    starts = _starts(view, earlier, options.priors)
    grew = _Grew(
        part, earlier, starts, grown(view.snapshot, view.quantity, starts),
        in_the_nation(view.snapshot, view.quantity, earlier),
        goals_of(view.snapshot, view.quantity, earlier),
    )  # fmt: skip
    body = _body(grew, options.priors)
    covered = [coverage(view, part.people, part.out.reasons)]
    return Shown(
        body=body,
        coverage=covered,
        readings=growth_readings(body),
        method=growth_method(view, body),
        warnings=warnings_of([part], covered, []),
    )


def _starts(view: View, earlier: Quantity, wanted: int) -> tuple[Quantity, ...]:
    """The earlier sitting and those before it, the newest first; as many as there are."""
    if wanted == 1:
        return (earlier,)
    before = [one for one in sittings_until(view.snapshot, view.quantity)[:-1]
              if one.key.date <= earlier.key.date]  # fmt: skip
    others = [one for one in reversed(before) if one.id != earlier.id]
    return (earlier, *others[: wanted - 1])


def _body(grew: _Grew, wanted: int) -> GrowthBody:
    part, view = grew.part, grew.part.view
    rows = _rows(grew, judged=True)
    district = [one for one in pinned_slices(part) if not one.released]
    pinned = [row for one in district for row in _rows(replace(grew, part=one), judged=False)]
    sort = view.question.sort or (q.SortBy(by="median"),)
    lacks = [grew.nation.lacks] if grew.nation.lacks else []
    if not grew.goals:
        lacks.append(
            f"no table says what growth is expected from {grew.earlier.key.sitting.name} to "
            f"{view.quantity.key.sitting.name}"
        )
    if not any(row.ranked for row in rows):
        lacks.append(
            f"growth percentiles stand among {FEWEST_TO_FIT} students or more of a "
            f"{spoken().year_level} who have both results, and here are fewer"
        )
    if len(grew.starts) < wanted:
        lacks.append(f"growth stands on {len(grew.starts)} of the {wanted} starts asked for")
    return GrowthBody(
        show="growth", dimension=part.grouping.label, before=grew.earlier.key.sitting.name,
        now=view.quantity.key.sitting.name, unit=view.quantity.unit,
        priors=[one.label for one in grew.starts], goals=list(grew.goals),
        rows=in_order(rows, sort, SORTABLE, "Growth", _sorts), reference=pinned, lacks=lacks,
    )  # fmt: skip


def _sorts(row: GrowthRow, column: str) -> object:
    return getattr(row, "median" if column == "value" else column)


def _rows(grew: _Grew, *, judged: bool) -> list[GrowthRow]:
    """A row per group, unsorted; a pinned one is compared with nobody and opens nobody."""
    part = grew.part
    view, grouping, groups = part.view, part.grouping, len(part.grouping.groups)
    change = figures_of(view, part.out, grouping, quartiles=False)
    ranks = _figures(part, growth_of(view.quantity, _alike(view.quantity, grew.starts)))
    counted = np.where(part.out.reasons == 0, grew.percentile, np.nan)
    medians = growth_of_groups(
        counted[grouping.at], grouping.code, groups, effective=ranks.contrast.n_effective
    )
    met = {goal: _figures(part, _meeting(grew, goal)) for goal in grew.goals}
    beside = None
    if judged:
        alike = _alike(view.quantity, grew.starts[:1])
        beside = rows_of(_with(part, view.quantity, alike))
    out = []
    for n, group in enumerate(grouping.groups):
        mine = grouping.at[grouping.code == n]
        held = mine[part.out.reasons[mine] == 0]
        row = GrowthRow(
            key=group.name, label=group.label, n=len(held), missing=len(mine) - len(held),
            opens=opens(view, group) if judged else None, pinned=not judged,
            overlap=grouping.overlaps,
            undefined=None if len(held) >= FEWEST_TO_SHOW else "too_few",
        )  # fmt: skip
        if len(held) >= FEWEST_TO_SHOW:
            told: dict[str, Any] = {"ranked": int(medians.n[n]), **_scores(grew, held)}
            told |= {"change": _plain(change.span[n]), "change_low": _plain(change.interval.low[n]),
                     "change_high": _plain(change.interval.high[n])}  # fmt: skip
            if medians.enough[n]:
                told |= {
                    "median": _plain(medians.median[n]), "mean": _plain(medians.mean[n]),
                    "median_low": _plain(medians.median_low[n]),
                    "median_high": _plain(medians.median_high[n]),
                }  # fmt: skip
            told["met"] = [_met(grew, row, goal, met[goal], n) for goal in grew.goals]
            told["fell"] = _fell(grew, held, judged=judged)
            if beside is not None:
                one = beside[n]
                told |= {"span": one.span, "low": one.low, "high": one.high}
                told["verdict"] = one.verdict
            row = row.model_copy(update=told)
        out.append(row)
    return out


def _alike(own: Quantity, starts: tuple[Quantity, ...]) -> WhereTheyStarted:
    spec = q.PriorSpec(priors=tuple(start.measure for start in starts))
    return WhereTheyStarted(own, q.AgainstPrior(prior=spec), starts, "linear", own)


def _figures(part: Slice, quantity: Quantity) -> Figures:
    made = _with(part, quantity, None)
    return figures_of(made.view, made.out, made.grouping, quartiles=False)


def _with(part: Slice, quantity: Quantity, yardstick: Yardstick | None) -> Slice:
    view = _view(part.view, quantity, yardstick)
    return replace(part, view=view, out=outcome(view))


def _view(view: View, quantity: Quantity, yardstick: Yardstick | None) -> View:
    bound = view.elsewhere
    return replace(
        view, quantity=quantity, yardstick=yardstick,
        elsewhere=None if bound is None else lambda other: _view(bound(other), quantity, yardstick),
    )  # fmt: skip


def _standing(grew: _Grew, goal: Goal) -> Quantity:
    """How students stand to the table's growth, in words."""
    own = grew.part.view.quantity
    spec = q.GrowthTableSpec.model_validate({"goal": goal, "from": grew.earlier.measure})
    return status_of(own, Growth(own, q.AgainstGrowthTable(growth_table=spec), grew.earlier))


def _meeting(grew: _Grew, goal: Goal) -> Quantity:
    """The share who met a growth."""
    standing = _standing(grew, goal)
    return share_from(standing, standing.pass_at or 0)


def _met(grew: _Grew, row: GrowthRow, goal: Goal, figures: Figures, n: int) -> Met:
    standing = _standing(grew, goal)
    of, share = int(figures.values.n[n]), float(figures.values.mean[n])
    met = 0 if share != share else round(of * share / 100)
    mark = None
    if row.opens is not None and met:
        condition = q.MeasureIs(
            measure=standing.measure, level=standing.steps[standing.pass_at or 0 :]
        )
        mark = row.opens.model_copy(update={"add": (*row.opens.add, condition)})
    told = Met(n=met, missing=row.n - of, goal=goal, of=of, opens=mark)
    if of < FEWEST_TO_SHOW:
        return told
    low, high = figures.interval.low[n], figures.interval.high[n]
    return told.model_copy(
        update={"share": _plain(share / 100), "low": _plain(low / 100), "high": _plain(high / 100)}
    )


def _fell(grew: _Grew, held: Integers, *, judged: bool) -> Fell | None:
    nation, view = grew.nation, grew.part.view
    of = held[nation.both[held]]
    if len(of) < FEWEST_TO_SHOW:
        return None

    def mark(who: Integers) -> q.Open | None:
        ids = tuple(sorted(int(one) for one in view.snapshot.student_ids[who]))
        return q.Open(what=view.stands, students=ids) if judged and ids else None

    fell, beyond = of[nation.fell[of]], of[nation.beyond[of]]
    alone = nation.alone[of]
    known = ~np.isnan(alone)
    said = bool(known.sum() > 0.9 * len(of))
    return Fell(
        n=len(fell), of=len(of), share=len(fell) / len(of), opens=mark(fell),
        alone=float(alone[known].mean()) if said else None,
        beyond=Mark(n=len(beyond), opens=mark(beyond)),
        beyond_alone=float(nation.chance[of][known].sum()) if said else None,
    )  # fmt: skip


def _scores(grew: _Grew, held: Integers) -> dict[str, float | None]:
    """Score and rank side by side, of the same students."""
    out, nation = grew.part.out, grew.nation
    assert out.held is not None
    ranks = held[~np.isnan(nation.then[held]) & ~np.isnan(nation.now[held])]
    told = {
        "then_score": out.held.expected[held], "now_score": out.values[held],
        "then_rank": nation.then[ranks], "now_rank": nation.now[ranks],
    }  # fmt: skip
    return {
        name: float(values.mean()) if len(values) >= FEWEST_TO_SHOW else None
        for name, values in told.items()
    }


def _plain(value: float) -> float | None:
    return None if value != value else float(value)

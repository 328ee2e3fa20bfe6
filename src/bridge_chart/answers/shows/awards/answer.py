"""Who has met an award, who is on course, who is short of what?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from bridge_chart.answers.bound.names import one_of
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.awards.body import (
    AwardCondition,
    AwardRead,
    AwardsBody,
    AwardsOptions,
    NearAward,
)
from bridge_chart.answers.shows.awards.by_subject import by_subject
from bridge_chart.answers.shows.awards.estimates import estimates_before, fall_short, rests_on
from bridge_chart.answers.shows.awards.words import asks, award_method, award_readings
from bridge_chart.answers.shows.levels.answer import levels_shown
from bridge_chart.answers.shows.levels.body import LevelsBody
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.award import BANKED, Award, judged
from bridge_chart.answers.what.derived import award_of
from bridge_chart.core.arrays import Integers, Mask
from bridge_chart.core.awards.judge import MET, NOT_YET, ON_COURSE, Outcome
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark, Reading
from bridge_chart.terms.errors import InvalidQuestion

MOST_NEAR = 40


def awards_shown(parts: Sequence[Slice]) -> Shown:
    """One award with its conditions, or the grades of one side by side."""
    awards = [_award_of(part.view) for part in parts]
    shown = levels_shown(parts)
    levels = shown.body
    assert isinstance(levels, LevelsBody)
    told = [_Told(part, award) for part, award in zip(parts, awards, strict=True)]
    options = AwardsOptions.model_validate(parts[0].view.question.options)
    body = AwardsBody(
        show="awards", dimension=levels.dimension, within=levels.within, steps=levels.steps,
        pass_at=levels.pass_at, drawn=True, rows=levels.rows, reference=levels.reference,
        school_year=awards[0].of.key.academic_year, counting=awards[0].counting,
        awards=[one.read() for one in told],
        conditions=[condition for one in told for condition in one.conditions()],
        estimates=_estimates(parts[0].view, awards[0]),
        **_near(told[0], options.condition),
    )  # fmt: skip
    return replace(
        shown, body=body, readings=[*award_readings(body), *_of_groups(shown.readings, parts)],
        method=award_method(awards, body), sentence=lambda words: asks(words, awards[0].counting),
    )  # fmt: skip


def _of_groups(readings: Sequence[Reading], parts: Sequence[Slice]) -> list[Reading]:
    """What is said of groups; of grades side by side nothing, for one asks more than the other."""
    return [] if len(parts) > 1 else [one for one in readings if one.kind != "pass"]


def _award_of(view: View) -> Award:
    worked = view.quantity.worked
    if not isinstance(worked, Award) or worked.condition is not None:
        raise InvalidQuestion(
            "This is asked of a whole award.",
            next_step='Say {"derive": "award", "of": {"assessment": "Credits"}, "rule": …}.',
        )
    return worked


def _estimates(view: View, award: Award) -> list[object]:
    if award.counting == BANKED:
        return []
    return list(estimates_before(view.snapshot, award.of.key.academic_year))


class _Told:
    """An award over those who are asked about and have a record."""

    def __init__(self, part: Slice, award: Award) -> None:
        self.part, self.award, self.view = part, award, part.view
        self.snapshot = part.view.snapshot
        counted = part.people & part.view.meant & (part.out.reasons == 0)
        self.students: Integers = np.flatnonzero(counted)
        self.missing = int(np.count_nonzero(part.people & part.view.meant)) - len(self.students)
        self.held = judged(self.snapshot, award.of, award.rule)
        self.sure = award.counting == BANKED

    def read(self) -> AwardRead:
        """The award as a whole."""
        whole, students = self.held.whole, self.students
        status = whole.status[students]
        count = len(whole.parts)
        holding = whole.banked if self.sure else whole.with_estimates
        reached = holding[students] == count
        met = self._met(whole)[students]
        figure = award_of(replace(self.award, condition=None), steps=False).measure
        but_one = _is(figure, float(count - 1))
        apart = [_is(figure, float(count)), self._stands(None, (self.award.states[0],))]
        return AwardRead(
            n=len(students), missing=self.missing, measure=self.view.at,
            name=self.award.rule.name, says=self.award.rule.says, conditions=count,
            met=int(np.count_nonzero(status == MET)),
            course=0 if self.sure else int(np.count_nonzero(status == ON_COURSE)),
            rests=None if self.sure else rests_on(self.snapshot, self.award, students),
            lower=None if self.sure else fall_short(self.snapshot, self.award, students),
            but_one=self._mark(int(np.count_nonzero(holding[students] == count - 1)), [but_one]),
            apart=self._mark(int(np.count_nonzero(reached & ~met)), apart),
        )  # fmt: skip

    def conditions(self) -> list[AwardCondition]:
        """Each condition, then the whole."""
        conditions = self.award.rule.conditions
        return [self._condition(n) for n in range(len(conditions))] + [self._condition(None)]

    def _condition(self, place: int | None) -> AwardCondition:
        award = replace(
            self.award, condition=None if place is None else self.award.rule.conditions[place]
        )
        found = self.held.of(place)
        state = self._state(found)[self.students]
        counts = np.bincount(state, minlength=len(award.states)).tolist()
        few = len(self.students) < FEWEST_TO_SHOW
        told = {} if few or place is None else self._short(place, state)
        condition = award.condition
        return AwardCondition(
            n=len(self.students), missing=self.missing, measure=self.view.at,
            name=condition.name if condition else award.rule.name,
            says=f"{condition.says}." if condition else "All of them, by one choice of records.",
            needed=award.needed, unit=award.unit, whole=place is None,
            counts=[] if few else counts, undefined="too_few" if few else None,
            bars=[] if few else [
                self._mark(n, [self._stands(place, (name,))], place)
                for name, n in zip(award.states, counts, strict=True)
            ],
            **told,
        )  # fmt: skip

    def _short(self, place: int, state: Integers) -> dict[str, int | None]:
        """Of those not yet there who is close, and who has nothing to come."""
        found, below = self.held.of(place), self.students[state == NOT_YET]
        unit = self.held.parts(self.award.rule.conditions[place])
        away = found.needed - (found.banked if self.sure else found.with_estimates)[below]
        nothing = found.with_estimates[below] == found.banked[below]
        return {
            "close": int(np.count_nonzero(away <= unit)) if found.needed > unit else None,
            "unestimated": int(np.count_nonzero(nothing)),
        }

    def _state(self, found: Outcome) -> Integers:
        """(students of the snapshot,) places in the award's states."""
        state: Integers = (found.status == MET).astype(np.int64) if self.sure else found.status
        return state

    def _met(self, found: Outcome) -> Mask:
        return self._state(found) > NOT_YET

    def _stands(self, place: int | None, states: tuple[str, ...]) -> q.MeasureIs:
        condition = None if place is None else self.award.rule.conditions[place]
        measure = award_of(replace(self.award, condition=condition), steps=True).measure
        return q.MeasureIs(measure=measure, level=states)

    def _mark(self, n: int, add: list[q.MeasureIs], place: int | None = None) -> Mark:
        """Opens the students with every condition beside; of one, those nearest it first."""
        if not n:
            return Mark(n=n)
        return Mark(
            n=n,
            opens=q.Open(
                add=tuple(add), what=self.view.stands, columns=self._columns(place),
                sort=(q.SortBy(by="#1", dir="desc"),),
            ),
        )  # fmt: skip

    def _columns(self, place: int | None) -> tuple[q.Column, ...]:
        """What the student has of the condition (or how many hold), then how each other stands."""
        rule = self.award.rule
        condition = None if place is None else rule.conditions[place]
        own = award_of(replace(self.award, condition=condition), steps=False).measure
        first = q.Listed(
            measure=own, against=_needs(rule.name, condition.name if condition else None)
        )
        others = [one for one in rule.conditions if one != condition]
        return first, *(
            q.Listed(
                measure=q.Derived(
                    derive="status",
                    of=award_of(replace(self.award, condition=one), steps=False).measure,
                    against=_needs(rule.name, one.name),
                )
            )
            for one in others
        )

    def near(self, place: int) -> tuple[list[NearAward], int]:
        """Those who have not met a condition, nearest first, and how many they are."""
        found = self.held.of(place)
        parts = self.held.parts(self.award.rule.conditions[place])
        below = self.students[found.status[self.students] != MET]
        counted = found.banked if self.sure else found.with_estimates
        order = np.lexsort((-found.banked[below], -counted[below]))
        others = [one for n, one in enumerate(self.held.whole.parts) if n != place]
        ids = np.asarray(self.snapshot.student_ids)
        rows = [
            NearAward(
                student=int(ids[one]), banked=float(found.banked[one] / parts),
                with_estimates=float(counted[one] / parts), state=int(self._state(found)[one]),
                short=float(max(found.needed - counted[one], 0) / parts),
                others=[int(self._state(other)[one]) for other in others],
            )
            for one in below[order][:MOST_NEAR].tolist()
        ]  # fmt: skip
        return rows, len(below)


def _near(told: _Told, wanted: str | None) -> dict[str, object]:
    if wanted is None:
        return {}
    conditions = told.award.rule.conditions
    place = one_of("condition", wanted, [(n, one.name) for n, one in enumerate(conditions)])
    rows, many = told.near(place)
    node = told.held.whole.parts[place].of
    subjects = by_subject(told.held, node, conditions[place], told.students)
    if told.sure:
        subjects = [one.model_copy(update={"with_estimates": one.banked}) for one in subjects]
    return {
        "condition": conditions[place].name, "condition_at": place, "near": rows,
        "near_all": many, "by_subject": subjects,
        "beside": [one.name for n, one in enumerate(conditions) if n != place],
    }  # fmt: skip


def _is(measure: q.AnyMeasure, value: float) -> q.MeasureIs:
    return q.MeasureIs.model_validate({"measure": measure, "from": value, "to": value})


def _needs(rule: str, condition: str | None) -> q.AgainstThreshold:
    return q.AgainstThreshold(threshold=q.ThresholdSpec(rule=rule, condition=condition))

"""An award: how much of it each student has, by the district's rule and their credit records."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from math import ceil

import numpy as np

from bridge_chart.answers.bound.names import one_of
from bridge_chart.answers.bound.quantity import Quantity, Worked
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.awards import rules as core
from bridge_chart.core.awards.judge import MET, Outcome, judge
from bridge_chart.core.awards.records import CreditRecords, Match
from bridge_chart.store.codes import CREDITS
from bridge_chart.store.snapshot import KeptCredits, MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.award_rule import ALL, AwardRule, Condition, read_rules, rule_of_year
from bridge_chart.terms.calendar import year_bounds
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import plain

STATES = ("not yet", "on course", "met")
BANKED = "banked"
BANKED_STATES = (STATES[0], STATES[2])


@dataclass(frozen=True)
class Judged:
    """A rule judged in one school year. records: those until its end of whom it is asked, ascending
    by student; whole: the rule, its parts the conditions in their order."""

    award: core.Award
    records: CreditRecords
    kept: KeptCredits
    whole: Outcome

    def parts(self, condition: Condition) -> int:
        """How much of the core's figures is one of a condition's unit."""
        return self.records.parts if condition.unit == "credits" else 1

    def of(self, condition: int | None) -> Outcome:
        return self.whole if condition is None else self.whole.parts[condition]

    @property
    def recorded(self) -> Mask:
        """(students,) who has a record, and is asked for the award."""
        out = np.zeros(len(self.whole.status), bool)
        out[self.records.student] = True
        return out

    def rows_of(self, student: int) -> Integers:
        """The records of one student."""
        first, last = np.searchsorted(self.records.student, [student, student + 1])
        return np.arange(first, last)


@dataclass(frozen=True)
class Award(Worked):
    """What a student has of an award: of a condition credits or subjects, of the whole the
    conditions that hold. counting: banked records alone, or estimated ones too."""

    of: Quantity
    rule: AwardRule
    condition: Condition | None
    counting: str

    @property
    def called(self) -> str:
        return f"{self.rule.name}: {self.condition.name}" if self.condition else self.rule.name

    @property
    def score_name(self) -> str:  # type: ignore[override]
        return self.called

    @property
    def unit(self) -> str:
        return self.condition.unit if self.condition else "conditions"

    @property
    def needed(self) -> float:
        """How much of its unit it needs."""
        return float(self.condition.needed if self.condition else len(self.rule.conditions))

    @property
    def needs(self) -> str:
        """The same with its unit."""
        one = self.needed == 1
        return f"{plain(self.needed)} {self.unit[:-1] if one else self.unit}"

    @property
    def place(self) -> int | None:
        """The condition's place in the rule."""
        return None if self.condition is None else self.rule.conditions.index(self.condition)

    def outcome(self, snapshot: Snapshot) -> Outcome:
        return judged(snapshot, self.of, self.rule).of(self.place)

    def figures(self, snapshot: Snapshot) -> Floats:
        found = self.outcome(snapshot)
        counted = found.banked if self.counting == BANKED else found.with_estimates
        held = judged(snapshot, self.of, self.rule)
        parts = held.parts(self.condition) if self.condition else 1
        return np.where(held.recorded, counted / parts, np.nan)

    def standing(self, snapshot: Snapshot) -> Floats:
        """(students,) the place of each among `states`, from 1; NaN without records."""
        status = self.outcome(snapshot).status
        place = (status == MET) + 1.0 if self.counting == BANKED else status + 1.0
        return np.where(judged(snapshot, self.of, self.rule).recorded, place, np.nan)

    @property
    def states(self) -> tuple[str, ...]:
        return BANKED_STATES if self.counting == BANKED else STATES

    @property
    def lacks(self) -> str:
        of_whom = self.rule.of_whom
        return f"no credit record, or not in {of_whom}" if of_whom else "no credit record"

    @property
    def explained(self) -> tuple[str, str]:
        return (
            f"{self.rule.name}: {' '.join(self.rule.says)} Each standard counts once, under one "
            "choice of records for the whole award.",
            "methods/awards.md",
        )


@dataclass(frozen=True)
class AwardInWords(Award):
    """The same in words: not yet, on course (with estimates), met."""

    def figures(self, snapshot: Snapshot) -> Floats:
        return self.standing(snapshot)


def award_behind(quantity: Quantity) -> Award | None:
    """The award that a quantity is, or is worked out of."""
    while quantity.worked is not None:
        if isinstance(quantity.worked, Award):
            return quantity.worked
        quantity = quantity.worked.of
    return None


def rules_for(snapshot: Snapshot, school_year: str) -> list[AwardRule]:
    """The awards that can be asked for, as their rules hold in a school year."""
    every = read_rules(snapshot.tables.rows("award"))
    names = {rule.name.casefold(): rule.name for rule in every}
    found = (rule_of_year(every, name, school_year) for name in names.values())
    return [rule for rule in found if rule is not None]


def award_named(ask: q.Derived, of: Quantity, snapshot: Snapshot) -> Award:
    """The award that is asked for; its rule as it holds in the school year of the records."""
    if of.key.score != "credits" or of.worked is not None:
        raise InvalidQuestion(
            "An award is worked out of credit records.",
            next_step=f'Say "of": {{"assessment": "{CREDITS}"}}.',
        )
    rules = rules_for(snapshot, of.key.academic_year)
    if not rules:
        raise NotFound(
            "There is no award on record.", next_step="Bring in the table of its rule at Intake."
        )
    if not isinstance(ask.rule, str):
        raise InvalidQuestion("An award is asked for by its name: say it in “rule”.")
    rule = rules[one_of("award", ask.rule, [(n, r.name) for n, r in enumerate(rules)])]
    condition = None
    if ask.condition is not None:
        named = [(n, one.name) for n, one in enumerate(rule.conditions)]
        condition = rule.conditions[one_of("condition", ask.condition, named)]
    return Award(of, rule, condition, ask.counting or "banked and estimated")


def judged(snapshot: Snapshot, of: Quantity, rule: AwardRule) -> Judged:
    """A rule over the credit records until the end of a school year, worked out once."""
    name = ("award", of.id, rule.name)
    return kept_for(snapshot, name, lambda: judged_on(snapshot, of.key, rule))


def judged_on(snapshot: Snapshot, year: MeasureKey, rule: AwardRule) -> Judged:
    """A rule, kept or not, over the credit records until the end of a school year."""
    kept = snapshot.credits
    assert kept is not None  # without records there is no measure of them
    last = np.datetime64(year_bounds(year.academic_year)[1]).astype(int)
    student = np.asarray(kept.student)
    rows = np.flatnonzero((kept.day <= last) & _asked_of(snapshot, year, rule)[student])
    kept = kept.of(rows, student[rows])
    code = kept.codes
    records = CreditRecords(
        np.asarray(kept.student).astype(np.int64), code["standard"], code["subject"],
        code["level"], code["kind"], code["result"], np.asarray(kept.credits),
        np.asarray(kept.banked), kept.parts,
    )  # fmt: skip
    award = compiled(rule, kept)
    return Judged(award, records, kept, judge(award, records, snapshot.students))


def _asked_of(snapshot: Snapshot, year: MeasureKey, rule: AwardRule) -> Mask:
    """(students,) who is in the year level of which it is asked, on the newest day with a record in
    that school year."""
    if rule.year_level is None:
        return np.ones(snapshot.students, bool)
    roll = snapshot.roll_at(year.date)
    if roll is None:
        return np.zeros(snapshot.students, bool)
    asked: Mask = np.asarray(roll.year_level) == rule.year_level
    return asked


def compiled(rule: AwardRule, kept: KeptCredits) -> core.Award:
    """A rule in the codes of some records. A name that no record has counts nothing."""
    parts = tuple(_node(one, kept) for one in rule.conditions)
    once = (frozenset(_codes("standard", names, kept)) for names in rule.once)
    return core.Award(core.AllOf(parts), tuple(codes for codes in once if len(codes) > 1))


def _node(one: Condition, kept: KeptCredits) -> core.Rule:
    if one.joins:
        parts = tuple(_node(part, kept) for part in one.parts)
        return core.AllOf(parts) if one.joins == ALL else core.AnyOf(parts)
    if one.subjects:
        needs = tuple(_need(part, kept) for part in (one, *one.parts))
        return core.Subjects(one.subjects, needs)
    return core.Credits(_need(one, kept))


def _need(one: Condition, kept: KeptCredits) -> core.Need:
    def wanted(column: str, names: tuple[str, ...]) -> Collection[int] | None:
        return _codes(column, names, kept) if names else None

    match = Match(
        wanted("level", one.level), wanted("kind", one.kind), wanted("subject", one.subject),
        wanted("result", one.result), wanted("standard", one.standards),
    )  # fmt: skip
    return core.Need(ceil(one.credits * kept.parts), match)


def _codes(column: str, names: tuple[str, ...], kept: KeptCredits) -> set[int]:
    known = {name.casefold(): n for n, name in enumerate(kept.names[column])}
    found = (known.get(name.casefold()) for name in names)
    return {code for code in found if code is not None}

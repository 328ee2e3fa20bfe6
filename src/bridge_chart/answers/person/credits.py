"""A student's credit records, what each counts for, how far each award is, and which estimates
would close each gap."""

from __future__ import annotations

import datetime as dt

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.person.page import AwardHeld, ConditionHeld, CreditRecord, Credits
from bridge_chart.answers.shows.students.body import FileLine
from bridge_chart.answers.what.award import STATES, Judged, judged, rules_for
from bridge_chart.core.arrays import Integers, Mask
from bridge_chart.core.awards.judge import ON_COURSE, fewest_estimates
from bridge_chart.core.awards.rules import AllOf, AnyOf, Award, Need, Rule, Subjects, nodes
from bridge_chart.core.awards.rules import Credits as CreditsNeeded
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.award_rule import AwardRule

EPOCH = dt.date(1970, 1, 1)


def credits_of(snapshot: Snapshot, at: int) -> Credits | None:
    """By the rules of the newest school year in which the student's records may be seen; None where
    there is none."""
    seen = (
        year for year in reversed(snapshot.credit_years)
        if not np.isnan(np.asarray(snapshot.values(year))[at])
    )  # fmt: skip
    year = next(seen, None)
    if year is None:
        return None
    of = plain(year)
    rules = rules_for(snapshot, year.academic_year)
    every = [_Told(snapshot, of, rule, at) for rule in rules]
    told = [one for one in every if one.held.recorded[at]]
    records = _records(snapshot, at)
    if not records:
        return None
    for n, record in enumerate(records):
        record.counts.extend(name for one in told for name in one.counted(n))
    return Credits(
        school_year=year.academic_year, records=records, awards=[one.award() for one in told]
    )


def _records(snapshot: Snapshot, at: int) -> list[CreditRecord]:
    """Every record of a student, by date."""
    kept = snapshot.credits
    assert kept is not None  # else there is no year of them
    rows = np.flatnonzero(np.asarray(kept.student) == at)

    def name(what: str, row: int) -> str:
        code = int(kept.codes[what][row])
        return kept.names[what][code] if code >= 0 else ""

    return [
        CreditRecord(
            standard=name("standard", row), title=name("title", row), subject=name("subject", row),
            level=name("level", row), kind=name("kind", row), result=name("result", row),
            credits=float(kept.credits[row] / kept.parts), banked=bool(kept.banked[row]),
            date=EPOCH + dt.timedelta(days=int(kept.day[row])), counts=[],
            origin=FileLine(batch_id=int(kept.batch[row]), line=int(kept.line[row])),
            file=snapshot.files.get(int(kept.batch[row]), ""),
        )
        for row in rows.tolist()
    ]  # fmt: skip


class _Told:
    """One award and the student's own records in it."""

    def __init__(self, snapshot: Snapshot, of: Quantity, rule: AwardRule, at: int) -> None:
        self.snapshot, self.rule, self.at = snapshot, rule, at
        self.held: Judged = judged(snapshot, of, rule)
        self.own = self.held.records.of(self.held.rows_of(at))
        self._counted = [
            (one.name, self._best(node))
            for one, node in zip(rule.conditions, self._nodes(), strict=True)
        ]

    def _nodes(self) -> tuple[Rule, ...]:
        whole = self.held.award.rule
        assert isinstance(whole, AllOf)
        return whole.parts

    def counted(self, n: int) -> list[str]:
        """The conditions that the student's n-th record counts for; the newest year has all."""
        return [f"{self.rule.name}: {name}" for name, rows in self._counted if rows[n]]

    def _best(self, node: Rule) -> Mask:
        """(own records,) whether each is the one of its standard and set that counts."""
        out = np.zeros(len(self.own.student), bool)
        group = self._groups()
        for need in _needs(node):
            worth = np.where(need.match.rows(self.own), self.own.credits, 0)
            # A banked record before an estimated one of the same worth.
            order = np.lexsort((self.own.banked, worth))[::-1]
            first = np.unique(group[order], return_index=True)[1]
            best = order[first]
            out[best[worth[best] > 0]] = True
        return out

    def _groups(self) -> Integers:
        """(own records,) of which one counts: the standard, or the first of its set."""
        group = self.own.standard.astype(np.int64)
        for standards in self.held.award.once:
            group[np.isin(group, list(standards))] = min(standards)
        return group

    def award(self) -> AwardHeld:
        whole = self.held.whole
        rests = self._closes(self.held.award) if self._state() == ON_COURSE else []
        return AwardHeld(
            name=self.rule.name, says=self.rule.says, state=STATES[self._state()], rests=rests,
            conditions=[self._condition(n) for n in range(len(whole.parts))],
        )  # fmt: skip

    def _state(self) -> int:
        return int(self.held.whole.status[self.at])

    def _condition(self, place: int) -> ConditionHeld:
        condition, found = self.rule.conditions[place], self.held.whole.parts[place]
        parts = self.held.parts(condition)
        state = int(found.status[self.at])
        node = Award(found.of, self.held.award.once)
        closes = self._closes(node) if state == ON_COURSE else []
        hoped = float(found.with_estimates[self.at] / parts)
        return ConditionHeld(
            name=condition.name, says=condition.says, needed=float(condition.needed),
            unit=condition.unit, banked=float(found.banked[self.at] / parts), with_estimates=hoped,
            state=STATES[state], short=max(float(condition.needed) - hoped, 0.0),
            closes=closes,
        )  # fmt: skip

    def _closes(self, award: Award) -> list[str]:
        """The fewest estimated standards that would do."""
        rows = fewest_estimates(award, self.own, self.at)
        names = self.held.kept.names["standard"]
        return [] if rows is None else [names[int(self.own.standard[row])] for row in rows]


def _needs(rule: Rule) -> list[Need]:
    out: list[Need] = []
    for node in nodes(rule):
        if isinstance(node, CreditsNeeded):
            out.append(node.need)
        elif isinstance(node, Subjects):
            out += node.each
        else:
            assert isinstance(node, AllOf | AnyOf)
    return out

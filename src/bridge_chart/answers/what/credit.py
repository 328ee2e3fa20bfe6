"""Credit for movement between levels: what a rule gives for where each student was and is now."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.names import one_of
from bridge_chart.answers.bound.quantity import Quantity, Worked
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Floats
from bridge_chart.store.reference_tables import tidy
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion

A_RISE = "a rise, or the top held"
"""The rule where no table of the district says another: everything else earns nothing."""


@dataclass(frozen=True, eq=False)
class Rule:
    """credit: (levels before, levels now), 0 to 1."""

    name: str
    credit: Floats


@dataclass(frozen=True, eq=False)
class Credit(Worked):
    """A student's credit in percent; none without both levels."""

    of: Quantity
    earlier: Quantity
    rule: Rule
    called: ClassVar[str] = "credit for movement"
    score_name: ClassVar[str] = "credit for movement"

    @property
    def unit(self) -> str:
        return "%"

    def figures(self, snapshot: Snapshot) -> Floats:
        before, now = places(snapshot, self.earlier), places(snapshot, self.of)
        held = (before >= 0) & (now >= 0)
        return np.where(held, 100 * self.rule.credit[before, now], np.nan)

    @property
    def lacks(self) -> str:
        return "no earlier result"


def places(snapshot: Snapshot, quantity: Quantity) -> np.ndarray:
    """(students,) int: which level each is in, from 0; −1 = none."""
    values = np.asarray(figures_of_students(snapshot, quantity))
    return np.nan_to_num(values, nan=0.0).astype(np.int64) - 1


def rules_for(snapshot: Snapshot, of: Quantity) -> list[Rule]:
    """The rules that can be asked for, the district's newest first; that of a rise last."""
    key = of.key
    subject = key.subject.name if key.subject else None
    told = snapshot.tables.movement(key.assessment.name, subject)
    found = [(name, _matrix(moves, of.steps)) for name, moves in told.items()]
    steps = len(of.steps)
    rise = np.triu(np.ones((steps, steps)), 1)
    rise[steps - 1, steps - 1] = 1.0
    known = [Rule(name, credit) for name, credit in found if credit is not None]
    return [*known, Rule(A_RISE, rise)]


def rule_named(snapshot: Snapshot, of: Quantity, wanted: q.Ref | None) -> Rule:
    """The rule that is asked for, or the first; NotFound with those that there are."""
    rules = rules_for(snapshot, of)
    if wanted is None:
        return rules[0]
    if isinstance(wanted, int):
        raise InvalidQuestion("A rule for movement is asked for by its name.")
    return rules[one_of("rule for movement", wanted, [(n, r.name) for n, r in enumerate(rules)])]


def _matrix(moves: Mapping[tuple[str, str], float], steps: tuple[str, ...]) -> Floats | None:
    """The credit of each move; None where the table does not name each of these levels' moves."""
    names = [tidy(step) for step in steps]
    pairs = [[moves.get((before, now)) for now in names] for before in names]
    if any(credit is None for row in pairs for credit in row):
        return None
    return np.array(pairs, np.float64)

"""Measures worked out for each student: the distance from a yardstick, how they stand to it, a
national rank, credit, growth, pace, another scale.

One line for each way (`WAYS`); docs/adding.md says what else a new one touches.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.identity import Working
from bridge_chart.answers.bound.quantity import Quantity, Worked
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.what.award import BANKED, Award, AwardInWords, award_named
from bridge_chart.answers.what.convert import Converted, conversion_named
from bridge_chart.answers.what.credit import Credit, Rule, rule_named
from bridge_chart.answers.what.growth import GROWTH, GrowthBand, GrowthPercentile
from bridge_chart.answers.what.mastered import Mastered
from bridge_chart.answers.what.nation import percentile_ranks
from bridge_chart.answers.what.pace import Pace, Projected, sittings_until
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Floats
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion


@dataclass(frozen=True)
class Span(Worked):
    """A student's figure minus what it is held against."""

    of: Quantity
    yardstick: Yardstick
    called: ClassVar[str] = "span"
    score_name: ClassVar[str] = "span"

    def figures(self, snapshot: Snapshot) -> Floats:
        held = self.yardstick.held(snapshot)
        assert held is not None  # a group is refused when the measure is bound
        return np.asarray(figures_of_students(snapshot, self.of) - held.expected)

    @property
    def lacks(self) -> str:
        return self.yardstick.lacking.get(self.yardstick.lacks, "no expectation")


@dataclass(frozen=True)
class Gain(Span):
    """A span against an earlier sitting."""

    called: ClassVar[str] = "gain"
    score_name: ClassVar[str] = "gain"


@dataclass(frozen=True)
class Steps(Span):
    """A span in levels or grades."""

    called: ClassVar[str] = "steps made"
    score_name: ClassVar[str] = "steps made"

    @property
    def unit(self) -> str:
        return "steps"


@dataclass(frozen=True)
class Status(Span):
    """How a student stands to what the figure is held against, in words."""

    called: ClassVar[str] = "standing"
    score_name: ClassVar[str] = "standing"

    def figures(self, snapshot: Snapshot) -> Floats:
        return self.yardstick.standing(snapshot, np.asarray(figures_of_students(snapshot, self.of)))


@dataclass(frozen=True)
class Percentile(Worked):
    """The national percentile rank of a student's score."""

    of: Quantity
    called: ClassVar[str] = "national percentile rank"
    score_name: ClassVar[str] = "national percentile rank"

    def figures(self, snapshot: Snapshot) -> Floats:
        return percentile_ranks(snapshot, self.of)

    @property
    def lacks(self) -> str:
        return "no national figure"


def bind_derived(ask: q.Derived, of: Quantity, binding: Binding, *, steps: bool) -> Quantity:
    """A derived measure with everything that it names found. steps: the show counts steps."""
    if ask.derive not in WAYS:
        raise InvalidQuestion(f"“{ask.derive}” is not worked out for one student.")
    way, takes = WAYS[ask.derive]
    for name in ("against", "table", "rule", "condition", "counting"):
        given = getattr(ask, name)
        if given is not None and name not in takes:
            raise InvalidQuestion(f"The derived measure “{ask.derive}” has no “{name}”.")
    if "against" in takes and ask.against is None and ask.derive != "growth_percentile":
        raise InvalidQuestion(f"The derived measure “{ask.derive}” must have “against”.")
    found = way(ask, of, binding, steps)
    if found.steps and not steps:
        raise InvalidQuestion(
            f"{found.label} is a word for each student, not a figure.",
            next_step="Look at it as Levels, split by it, or ask for the share that reaches one.",
        )
    return found


def counts_steps(what: q.What) -> bool:
    """Whether a measure is words from lowest to highest by its nature."""
    if isinstance(what, q.Figure):
        return False
    return isinstance(what, q.Derived) and what.derive in ("status", "convert", "growth_percentile")


def in_levels(what: q.Derived) -> tuple[bool, ...]:
    """Whether what it is worked out of is looked at in levels; several: the first that there is."""
    if what.derive in ("steps", "credit"):
        return (True,)
    if what.derive == "status" and isinstance(what.against, q.AgainstTarget | q.AgainstPredicted):
        return True, False
    if what.derive in ("pace", "projected", "convert"):
        plain = what.of
        return (isinstance(plain, q.Measure) and plain.score in ("level", "grade"),)
    return (False,)


def _made(of: Quantity, worked: Worked, working: Working, called: str, **more: object) -> Quantity:
    identity = replace(of.id, working=working)
    told = {"steps": (), "pass_at": None, "decimals": 1, "label": f"{of.label}, {called}"}
    return replace(of, id=identity, worked=worked, **{**told, **more})  # type: ignore[arg-type]


def _held(ask: q.Derived, of: Quantity, binding: Binding) -> Yardstick:
    if isinstance(ask.against, q.AgainstGroup):
        raise InvalidQuestion("A group is no yardstick for a single student's span.")
    yardstick = binding.about(of).yardstick(ask.against, of)
    assert yardstick is not None
    return yardstick


def _span(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    del steps
    kind = {"span": Span, "gain": Gain, "steps": Steps}[ask.derive]
    yardstick = _held(ask, of, binding)
    working = Working(ask.derive, of.id, yardstick.asked)
    return _made(of, kind(of, yardstick), working, kind.called)


def _status(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    del steps
    return status_of(of, _held(ask, of, binding))


def status_of(of: Quantity, yardstick: Yardstick) -> Quantity:
    """How each student stands to a yardstick, in words from the lowest."""
    working = Working("status", of.id, yardstick.asked)
    return _made(
        of, Status(of, yardstick), working, "", steps=yardstick.states, pass_at=yardstick.met_at,
        label=yardstick.beside(of.label),
    )  # fmt: skip


def _percentile(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    del ask, binding, steps
    made = _made(of, Percentile(of), Working("percentile", of.id), Percentile.called)
    return replace(made, id=replace(made.id, score="percentile"))


def _mastered(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    del ask, binding, steps
    return _made(of, Mastered(of), Working("mastered", of.id), Mastered.called)


def _growth(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    """Against one to three starts; which line or model goes through them has no part in it."""
    against = ask.against or q.AgainstPrior(prior=q.PriorSpec())
    plain = q.PriorSpec()
    if (
        not isinstance(against, q.AgainstPrior)
        or against.prior.model_copy(update={"priors": plain.priors}) != plain
    ):
        raise InvalidQuestion(
            "Growth percentiles stand among those who started alike: “against” is "
            '{"prior": {}}, with “priors” where others than the declared ones are meant.'
        )
    yardstick = binding.about(of).yardstick(against, of)
    assert yardstick is not None
    if len(yardstick.priors) > GROWTH.most_priors:
        raise InvalidQuestion(f"Growth percentiles take up to {GROWTH.most_priors} priors.")
    made = growth_of(of, yardstick)
    if not steps:
        return made
    band = GrowthBand(of, yardstick.priors)
    return replace(
        made, id=replace(made.id, in_words=True), worked=band, steps=GROWTH.bands,
        label=f"{of.label}, growth",
    )  # fmt: skip


def growth_of(of: Quantity, alike: Yardstick) -> Quantity:
    """The growth percentile of each student among those who had the same starts."""
    working = Working("growth_percentile", of.id, alike.asked)
    worked = GrowthPercentile(of, alike.priors)
    return _made(of, worked, working, GrowthPercentile.called, decimals=0)


def _pace(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    del steps
    kind = Pace if ask.derive == "pace" else Projected
    worked = kind(of, sittings_until(binding.snapshot, of))
    return _made(of, worked, Working(ask.derive, of.id), kind.called)


def _convert(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    del steps
    table = conversion_named(binding.snapshot, of, ask.table)
    working = Working("convert", of.id, table=table.onto)
    return _made(of, Converted(of, table), working, table.onto, steps=table.steps)


def _credit(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    """Credit for movement, by a rule and the levels of an earlier sitting."""
    del steps
    if not of.steps:
        raise InvalidQuestion(f"Credit is given for levels or grades, and {of.label} has none.")
    if not isinstance(ask.against, q.AgainstEarlier):
        raise InvalidQuestion(
            "Credit for movement must have “against”: an earlier sitting.",
            next_step='Say {"earlier": {"measure": {"assessment": "same", "subject": "same", '
            '"sitting": {"back": 1}}}}.',
        )
    yardstick = binding.about(of).yardstick(ask.against, of)
    assert yardstick is not None
    assert yardstick.since is not None
    if yardstick.since.steps != of.steps:
        raise InvalidQuestion(
            f"{yardstick.since.label} has other levels than {of.label}, so nobody can be said to "
            "have risen or held.",
            next_step="Choose an earlier sitting in the same levels.",
        )
    return credit_of(of, yardstick, rule_named(binding.snapshot, of, ask.rule))


def credit_of(of: Quantity, yardstick: Yardstick, rule: Rule) -> Quantity:
    """The credit of each student for the way from an earlier sitting."""
    assert yardstick.since is not None  # anything but an earlier sitting is refused when bound
    working = Working("credit", of.id, yardstick.asked, rule=rule.name)
    return _made(of, Credit(of, yardstick.since, rule), working, rule.name, decimals=0)


def _award(ask: q.Derived, of: Quantity, binding: Binding, steps: bool) -> Quantity:
    """In words where steps are wanted, else how much of it each student has."""
    return award_of(award_named(ask, of, binding.snapshot), steps=steps)


def award_of(award: Award, *, steps: bool) -> Quantity:
    """An award or one of its conditions as a quantity."""
    of, condition = award.of, award.condition.name if award.condition else None
    counting = award.counting if award.counting == BANKED else None
    working = Working("award", of.id, rule=award.rule.name, condition=condition, counting=counting)
    called = f"{award.called}, {of.key.sitting.name}"
    if not steps:
        return _made(of, award, working, "", decimals=of.decimals, label=called)
    worked = AwardInWords(of, award.rule, award.condition, award.counting)
    made = _made(
        of, worked, working, "", steps=award.states, pass_at=len(award.states) - 1, label=called
    )
    return replace(made, id=replace(made.id, in_words=True))


Way = Callable[[q.Derived, Quantity, Binding, bool], Quantity]
AGAINST = frozenset({"against"})
WAYS: dict[str, tuple[Way, frozenset[str]]] = {
    "span": (_span, AGAINST), "gain": (_span, AGAINST), "steps": (_span, AGAINST),
    "status": (_status, AGAINST), "percentile": (_percentile, frozenset()),
    "mastered": (_mastered, frozenset()), "growth_percentile": (_growth, AGAINST),
    "pace": (_pace, frozenset()), "projected": (_pace, frozenset()),
    "convert": (_convert, frozenset({"table"})), "credit": (_credit, AGAINST | {"rule"}),
    "award": (_award, frozenset({"rule", "condition", "counting"})),
}  # fmt: skip
"""How each is bound, and which keys it takes."""

"""Where they started: the score that students who started alike reach."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from bridge_chart.answers.against.by_table import ExpectedByTable
from bridge_chart.answers.against.fit import expectation
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.bound.yardstick import Expectation, Form, Held, Told, Yardstick
from bridge_chart.answers.what.values import figures_of_students, of_same_students, sibling
from bridge_chart.core.arrays import Floats
from bridge_chart.core.expected.line import FEWEST_TO_FIT
from bridge_chart.core.value_added.multilevel import FEWEST_GROUPS
from bridge_chart.store.codes import IN_FIGURES, STEPPED
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import count, listed
from bridge_chart.terms.words import spoken

CURVES: Mapping[Form, str] = {
    "linear": "a straight line",
    "cubic": "a cubic curve",
    "spline": "a smooth curve",
    "equal_scores": "the mean of equal starters",
}


@dataclass(frozen=True)
class WhereTheyStarted(Yardstick):
    """`left_out`: a school without which the line is drawn, to see what hangs on it. `fitted`: the
    quantity in figures; a level's own sitting in figures is what is expected of
    a start, so that one fit serves both."""

    own: Quantity
    asked: q.AgainstPrior
    starts: tuple[Quantity, ...]
    form: Form
    fitted: Quantity
    left_out: int | None = None
    allowed: Sequence[str] = ()
    kind: ClassVar[str] = "prior"
    marks: ClassVar[Literal["rest", "itself"]] = "rest"

    @classmethod
    def bind(cls, asked: q.AgainstPrior, own: Quantity, binding: Binding) -> Yardstick:
        spec = asked.prior
        for what, found in {
            "an expectation table by name": spec.table is not None,
            "a share against where they started": own.is_share,
        }.items():
            if found:
                raise not_yet(what)
        if spec.priors == "declared" or not spec.priors:
            starts = declared_priors(binding, own)
        else:
            starts = _named(spec, own, binding)
        if spec.expect == "table":
            return ExpectedByTable.bound_to(asked, own, starts)
        if len(starts) > 1 and spec.expect == "equal_scores":
            raise InvalidQuestion(
                "Equal starters are found by one prior.",
                next_step="Take one prior, or a line or curve through several.",
            )
        if spec.model == "corrected" and (spec.expect != "linear" or len(starts) > 1):
            raise InvalidQuestion(
                "Error in the start is corrected for one prior and a straight line.",
                next_step="Take one prior and a line, or leave it uncorrected.",
                instead={"against": {"prior": {"model": "corrected"}}},
            )
        covariates = _covariates(spec, binding)
        bound = spec.model_copy(
            update={
                "priors": tuple(start.measure for start in starts),
                "covariates": tuple(covariates),
            }
        )
        return cls(
            own, asked.model_copy(update={"prior": bound}), tuple(starts), spec.expect,
            _in_figures(binding.snapshot, own), allowed=tuple(covariates.values()),
        )  # fmt: skip

    @property
    def words(self) -> str:
        by = "" if self.form == "linear" else f", by {CURVES[self.form]}"
        model = ", pooled" if self.pools else ", corrected for error in it" if self.corrects else ""
        also = f" and {listed(self.allowed, 5)}" if self.allowed else ""
        return f"where they started{also}{by}{model}"

    @property
    def whom(self) -> str:
        return (
            f"similar starters by {listed(self.allowed, 5)}" if self.allowed else "similar starters"
        )

    @property
    def priors(self) -> tuple[Quantity, ...]:
        return self.starts

    @property
    def in_figures(self) -> Quantity:
        return self.fitted

    @property
    def pools(self) -> bool:
        return self.asked.prior.model == "multilevel"

    @property
    def key(self) -> Hashable:
        return self.asked if self.left_out is None else (self.asked, self.left_out)

    @property
    def corrects(self) -> bool:
        return self.asked.prior.model == "corrected"

    def look_up(self, snapshot: Snapshot) -> Held:
        covariates = tuple(int(one) for one in self.asked.prior.covariates)
        fit = expectation(
            snapshot, self.fitted, self.starts, self.form, self.left_out, covariates
        )  # fmt: skip
        if self.corrects:
            return Held(_corrected(fit), fit.prior, fit.prior_label, fit)
        return Held(fit.expected, fit.prior, fit.prior_label, fit)

    @property
    def states(self) -> tuple[str, ...]:
        return "below expectation", "as expected", "above expectation"

    def standing(self, snapshot: Snapshot, values: Floats) -> Floats:
        """By more than one error of prediction, for half of all are merely below or above."""
        held = self.held(snapshot)
        assert held is not None
        assert held.fit is not None
        if self.fitted.id != self.own.id:
            values = np.asarray(figures_of_students(snapshot, self.fitted))
        # Of one student the plain line is the better guess: error is corrected for groups only.
        away = values - held.fit.expected
        state = 2.0 + (away > held.fit.error) - (away < -held.fit.error)
        return np.where(np.isnan(away) | np.isnan(held.fit.error), np.nan, state)

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        held = self.held(snapshot)
        assert held is not None
        assert held.fit is not None
        fit, by = held.fit, CURVES[self.form]
        basis = sum(year.n for year in fit.years)
        several = "several priors" if len(fit.priors) > 1 else "one prior"
        model = "multilevel" if told.shrunken else "simple"
        facts = {
            **told.facts,
            "model": f"{model}: {by} on {several}, apart in each {spoken().year_level}",
            "basis": "all students of the district with both scores",
            "basis_n": basis,
            "prior": held.start_label,
            "fewest_to_fit": FEWEST_TO_FIT,
            "year_levels": _years(fit),
        }
        alphas = sorted({round(float(a), 4) for a in fit.alpha if a == a})
        if alphas:
            facts["start_reliable_at_most"] = alphas  # α of its questions, form by form
        if self.corrects:
            model = "corrected"
            facts["model"] = f"corrected: {by} on one prior, apart in each {spoken().year_level}"
            facts["reliability"] = sorted({round(float(r), 4) for r in fit.reliability if r == r})
        allowed = f" and {listed(self.allowed, 5)}" if self.allowed else ""
        facts |= {"covariates": list(self.allowed)} if self.allowed else {}
        says = [
            f"Each student's score in {self.own.label} minus the score expected from "
            f"{held.start_label}{allowed}: {by} for each {spoken().year_level}, through "
            f"{count(basis, 'student')} of the whole district, whoever asks.",
            told.interval,
            "A difference from students who started alike; no proof of teaching quality.",
        ]
        if fit.version is not None:
            says[0] += (
                f" It is that of version {fit.version}: since then the results of too few students "
                "have changed to show another."
            )
        if told.shrunken:
            says[1] = (
                "Rows are drawn towards the middle as far as their size leaves doubt (shrunken); "
                "the interval is that of the difference from the district."
            )
            facts["shrunken"] = True
            if not told.judged:
                says[1] += f" With fewer than {FEWEST_GROUPS} groups behind it, it judges none."
        elif told.not_shrunken:
            says[1] += f" Rows are not shrunken, for {told.not_shrunken}."
            facts["not_shrunken"] = told.not_shrunken
        page = "methods/multilevel.md" if told.shrunken else "methods/value-added.md"
        if self.corrects:
            says[2] = (
                "The line is as much steeper as error in the start made it flat, by the declared "
                f"reliability. For groups only. {says[2]}"
            )
            page = "methods/corrected.md"
        name = f"Distance from similar starters, {model} model"
        return Method(name=name, says=says, facts=facts, page=page)


def _covariates(spec: q.PriorSpec, binding: Binding) -> dict[int, str]:
    """The characteristics that are to be allowed for, by their ids."""
    if spec.covariates and (spec.expect in ("equal_scores", "table") or spec.model == "corrected"):
        raise InvalidQuestion(
            "Characteristics are allowed for by a line or a curve through the starts.",
            next_step="Take a line, a cubic or a smooth curve, or leave “covariates” away.",
        )
    ids = sorted({binding.places.characteristic(one) for one in spec.covariates})
    names = {item.id: item.name for item in binding.snapshot.characteristics}
    return {one: names[one] for one in ids}


def _corrected(fit: Expectation) -> Floats:
    """What is expected by starts without error: the line is as much steeper as their error made it
    flat (1/ρ). Only of groups; of one student the plain line is the better guess."""
    needed = ~np.isnan(fit.expected)
    if np.isnan(fit.reliability[needed]).any():
        raise NotFound(
            f"How exact {fit.prior_label} is has not been declared, so its error cannot be "
            "corrected for.",
            next_step="Bring in the reliability of its scores at Intake, or leave it uncorrected.",
        )
    return np.asarray(fit.expected + (1 / fit.reliability - 1) * fit.lean)


def _years(fit: Expectation) -> list[dict[str, float | int | None]]:
    def finite(value: float) -> float | None:
        return float(value) if np.isfinite(value) else None

    return [
        {
            "year_level": year.year_level,
            "n": year.n,
            "residual_sd": finite(year.residual_sd),
            "r_squared": finite(year.r_squared),
            "intercept": year.intercept,
            "slope": year.slope,
        }
        for year in fit.years
    ]


def _named(spec: q.PriorSpec, own: Quantity, binding: Binding) -> list[Quantity]:
    """The priors that the asker names."""
    assert spec.priors != "declared"
    found = []
    for prior in spec.priors:
        if isinstance(prior, q.FirstOf):
            raise not_yet("the first of several priors")
        found.append(binding.quantity(prior))
    for start in found:
        # Two dates that nobody knew better may fall together: what the asker names goes before it.
        if start.key.date > own.key.date or start.key.sitting.id == own.key.sitting.id:
            raise InvalidQuestion(
                "A prior must be earlier than what it is held against. "
                f"{start.label} is not earlier than {own.label}."
            )
    return found


def declared_priors(binding: Binding, own: Quantity) -> list[Quantity]:
    """Where they started: the same test and subject one sitting earlier, in the same kind of
    score; else, from an earlier school year, the latest sitting in figures of every subject of
    the test that has been sat by most."""
    snapshot, mine = binding.snapshot, own.plain.key
    if mine.score in STEPPED:
        # The same sitting's score in figures says where they started, also for its levels.
        mine = sibling(snapshot, mine, IN_FIGURES) or mine
    earlier = [
        m for m in _in_order(snapshot)
        if m.assessment == mine.assessment and m.subject == mine.subject
        and m.score == mine.score and m.date < mine.date
        and of_same_students(snapshot, m, mine)
    ]  # fmt: skip
    if earlier:
        return [binding.of_key(max(earlier, key=lambda m: m.date))]
    before = [
        m for m in _in_order(snapshot)
        if m.academic_year < mine.academic_year and m.assessment != mine.assessment
        and of_same_students(snapshot, m, mine)
    ]  # fmt: skip
    if not before:
        raise NotFound(
            f"{own.label} has no earlier sitting, so nobody has a starting score.",
            next_step="Choose another yardstick, or bring in the earlier sitting.",
        )
    last = max(before, key=lambda m: m.date)
    together = [m for m in before if m.date == last.date and m.assessment == last.assessment]
    return [binding.of_key(m) for m in together]


def _in_order(snapshot: Snapshot) -> list[MeasureKey]:
    """The measures in figures: scaled before raw before percent."""
    return sorted(
        (m for m in snapshot.measures if m.role == "result" and m.score in IN_FIGURES),
        key=lambda m: IN_FIGURES.index(m.score),
    )


def _in_figures(snapshot: Snapshot, quantity: Quantity) -> Quantity:
    """A level's own sitting in figures. Grades without figures stay as they are."""
    other = sibling(snapshot, quantity.key, IN_FIGURES) if quantity.steps else None
    return quantity if other is None or quantity.worked is not None else plain(other)

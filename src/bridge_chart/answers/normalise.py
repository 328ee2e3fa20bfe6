"""The normalised question: names turned into ids, defaults filled, what is not built refused."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from bridge_chart.answers.cut_scores import cuts_of
from bridge_chart.answers.measures import Measures, Wanted
from bridge_chart.answers.names import not_yet, one_of, tidy_values, whole_number
from bridge_chart.answers.quantities import Quantity, numeric_sibling, tested_year_level
from bridge_chart.store.codes import STEPPED
from bridge_chart.store.sets import StudentSet
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound

SHOWN = (
    "spans", "levels", "spread", "start_to_now", "over_time", "table", "students", "strip",
    "make_up",
)  # fmt: skip
OPTIONS: dict[str, set[str]] = {"spread": {"cuts"}, "levels": {"order"}}
WORDS = ("measure", "sitting", "subject", "part")
UNITS = ("own", "effect")


def refuse_not_yet(question: q.Question) -> None:
    """Refuse, by name, every part of the format that this version does not answer."""
    parts: dict[str, bool] = {
        f"show “{question.show}”": question.show not in SHOWN,
        "“also”": bool(question.also),
        "“layout”": question.layout is not None,
        "another basis than the district": question.basis != "district",
        f"unit “{question.unit}”": question.unit not in UNITS,
        "“over” year levels": question.over != "sitting" and question.show != "over_time",
        "plans": question.plan is not None,
        "these “options”": bool(set(question.options) - OPTIONS.get(question.show, set())),
    }
    if isinstance(question.against, q.AgainstPrior):
        prior = question.against.prior
        parts |= {
            f"expectation by “{prior.expect}”": prior.expect == "table",
            f"the model “{prior.model}”": prior.model == "corrected",
            "covariates and expectation tables": bool(prior.covariates) or prior.table is not None,
        }
    refused = next((what for what, found in parts.items() if found), None)
    if refused:
        raise not_yet(refused)


def normalise(
    question: q.Question, snapshot: Snapshot, sets: Mapping[int, StudentSet] | None = None
) -> q.Question:
    """The question with ids for names and its measures settled; errors as in `terms.errors`."""
    refuse_not_yet(question)
    names = Names(snapshot, sets)
    found = names.all_of(question)
    # Over time one measure stands for all its sittings, each with a yardstick of its own.
    several = len(found) > 1 or question.show == "over_time"
    inner = [d for d in question.split if not isinstance(d, str)]
    if len(found) > 1 and len(inner) > 1:
        raise InvalidQuestion(
            "Several measures can be split by one thing, not by two.",
            next_step="Take one measure, or one split.",
        )
    if len(found) > 1 and question.show == "students":
        raise InvalidQuestion("Students are listed for one measure at a time.")
    changed: dict[str, Any] = {
        "what": [quantity.ask for quantity in found],
        "who": names.who(question.who),
        "split": [names.dimension(d) for d in question.split],
        "against": names.yardstick(question.against, found[0], several=several),
        "focus": None if question.focus is None else [names.condition(c) for c in question.focus],
    }
    return question.model_copy(update=changed)


class Names(Measures):
    """Finds what everything in a question means in one snapshot."""

    def __init__(self, snapshot: Snapshot, sets: Mapping[int, StudentSet] | None = None) -> None:
        super().__init__(snapshot)
        self.sets = sets or {}

    def all_of(self, question: q.Question) -> list[Quantity]:
        """The question's quantities, each once."""
        wanted = Wanted(steps=question.show == "levels")
        found = [one for what in question.what for one in self.quantities(what, wanted)]
        return list({quantity.name: quantity for quantity in found}.values())

    def who(self, who: q.Who) -> q.Who:
        return who.model_copy(update={"all_": [self.condition(c) for c in who.all_]})

    def condition(self, c: q.Condition) -> q.Condition:
        """The condition with ids."""
        if isinstance(c, q.AnyOf):
            return c.model_copy(update={"any_": [self.condition(x) for x in c.any_]})
        if isinstance(c, q.AllOf):
            return c.model_copy(update={"all_": [self.condition(x) for x in c.all_]})
        if isinstance(c, q.Not):
            return c.model_copy(update={"not_": self.condition(c.not_)})
        if isinstance(c, q.CharacteristicIs):
            identity = self.characteristic(c.characteristic)
            options = [None if v is None else self.option(identity, v) for v in c.in_]
            return c.model_copy(update={"characteristic": identity, "in_": tidy_values(options)})
        if isinstance(c, q.FieldIs):
            return self._field(c)
        if isinstance(c, q.MeasureIs):
            return self._measure_is(c)
        if isinstance(c, q.BandIs):
            return c.model_copy(update={"band": self.quantity(c.band).ask})
        if isinstance(c, q.Missing):
            own = self.quantity(c.measure, Wanted(steps=_by_step(c.measure)))
            against = self.yardstick(c.against, own)
            return c.model_copy(update={"measure": own.ask, "against": against})
        assert isinstance(c, q.InSet)
        known = [(s.id, s.name) for s in self.sets.values()]
        return c.model_copy(update={"set_": one_of("group", c.set_, known)})

    def _measure_is(self, c: q.MeasureIs) -> q.MeasureIs:
        """A range in the measure's own unit, levels by name, or a distance from a boundary."""
        if c.status is not None or c.option is not None:
            raise not_yet("conditions on a status or an option")
        if c.level is not None:
            own = self.quantity(c.measure, Wanted(steps=True))
            steps = list(enumerate(own.steps))
            named = [own.steps[one_of("level", ref, steps)] for ref in c.level]
            return c.model_copy(update={"measure": own.ask, "level": list(dict.fromkeys(named))})
        own = self.quantity(c.measure)
        given = (c.from_, c.to, c.above, c.below, c.boundary, c.form)
        if all(value is None for value in given):
            raise InvalidQuestion(
                "A condition on a measure must have from, to, above, below, level, form or a "
                "boundary."
            )
        if c.boundary is not None:
            if c.within is None or not c.within > 0:
                raise InvalidQuestion("A condition on a boundary must have “within”, above 0.")
            cuts_of(
                self.snapshot, own.key, str(c.boundary), tested_year_level(self.snapshot, own.key)
            )
        form = None if c.form is None else one_of("form", c.form, [
            (f.id, f.name) for f in own.key.forms])  # fmt: skip
        return c.model_copy(update={"measure": own.ask, "form": form})

    def _field(self, c: q.FieldIs) -> q.FieldIs:
        if c.of is not None:
            raise not_yet("a condition on classes of the question's own subject")
        if c.in_ is None:
            if c.field != "year_level" or (c.from_ is None and c.to is None):
                raise InvalidQuestion(f"A condition on {c.field} must have “in”.")
            return c
        finders: dict[str, Callable[[q.Ref], q.Ref]] = {
            "school": self.school,
            "class": self.school_class,
            "year_level": whole_number,
            "teacher": self.teacher,
            "course": self.course,
            "student": self.student,
        }
        find = finders.get(c.field)
        if find is None:
            raise not_yet(f"the field “{c.field}”")
        values = [None if value is None else find(value) for value in c.in_]
        return c.model_copy(update={"in_": tidy_values(values)})

    def dimension(self, d: q.Dimension) -> q.Dimension:
        """The dimension with ids."""
        if isinstance(d, str):
            return d
        if isinstance(d, q.ByCharacteristic):
            return d.model_copy(update={"characteristic": self.characteristic(d.characteristic)})
        if isinstance(d, q.ByBand):
            if d.scheme is not None:
                raise not_yet("band schemes of one's own")
            if d.band == "prior":
                return d
            return d.model_copy(update={"band": self.quantity(d.band).ask})
        if isinstance(d, q.ByLevel):
            own = self.quantity(d.level_of, Wanted(steps=True))
            return d.model_copy(update={"level_of": own.ask})
        if isinstance(d, q.ByPopulations):
            return d.model_copy(
                update={
                    "populations": [
                        p.model_copy(update={"who": self.who(p.who)}) for p in d.populations
                    ]
                }
            )
        if d.field == "student":
            raise not_yet("a row for each student as a split")
        if d.of is not None and d.field != "class":
            raise InvalidQuestion("“of” is said of classes only: the classes of the subject.")
        return d

    def yardstick(
        self, against: q.Yardstick | None, own: Quantity, *, several: bool = False
    ) -> q.Yardstick | None:
        """The yardstick with concrete measures. Where a question has several measures each finds
        its own later, so what is relative is left as it was asked."""
        if against is None:
            return None
        if isinstance(against, q.AgainstPrior):
            if several and against.prior.priors == "declared":
                return against
            priors = self.prior_quantities(against.prior, own)
            bound = against.prior.model_copy(update={"priors": [p.ask for p in priors]})
            return against.model_copy(update={"prior": bound})
        if isinstance(against, q.AgainstGroup):
            bound_who = self.who(against.group.who)
            return against.model_copy(
                update={"group": against.group.model_copy(update={"who": bound_who})}
            )
        if isinstance(against, q.AgainstEarlier):
            if several and _relative(against.earlier.measure):
                return against
            earlier = self.earlier(against.earlier.measure, own)
            return against.model_copy(
                update={"earlier": against.earlier.model_copy(update={"measure": earlier.ask})}
            )
        if isinstance(against, q.AgainstTarget | q.AgainstPredicted):
            if not several:
                self.claimed(against, own)
            return against
        if isinstance(against, q.AgainstNation):
            return against
        raise not_yet("this yardstick")

    def prior_quantities(self, spec: q.PriorSpec, own: Quantity) -> list[Quantity]:
        if spec.priors == "declared":
            return self.declared_priors(own)
        found = []
        for prior in spec.priors:
            if isinstance(prior, q.FirstOf):
                raise not_yet("the first of several priors")
            found.append(self.quantity(prior))
        for start in found:
            if start.key.date >= own.key.date:
                raise InvalidQuestion(
                    "A prior must be earlier than what it is held against. "
                    f"{start.label} is not earlier than {own.label}."
                )
        if len(found) > 1 and spec.expect == "equal_scores":
            raise InvalidQuestion(
                "Equal starters are found by one prior.",
                next_step="Take one prior, or a line or curve through several.",
            )
        return found

    def declared_priors(self, own: Quantity) -> list[Quantity]:
        """Where they started: the same test and subject one sitting earlier, in the same kind of
        score; else, from an earlier school year, the latest sitting in figures of every subject
        of the test that has been sat by most."""
        mine = own.of.key if own.of else own.key
        if mine.score in STEPPED:
            # The same sitting's score in figures says where they started, also for its levels.
            mine = numeric_sibling(self.snapshot, mine) or mine
        earlier = [
            m for m in self._figures()
            if m.assessment == mine.assessment and m.subject == mine.subject
            and m.score == mine.score and m.date < mine.date
        ]  # fmt: skip
        if earlier:
            return [self._of_key(max(earlier, key=lambda m: m.date))]
        before = [
            m for m in self._figures()
            if m.academic_year < mine.academic_year and m.assessment != mine.assessment
        ]  # fmt: skip
        if not before:
            raise NotFound(
                f"{own.label} has no earlier sitting, so nobody has a starting score.",
                next_step="Choose another yardstick, or bring in the earlier sitting.",
            )
        last = max(before, key=lambda m: m.date)
        together = [m for m in before if m.date == last.date and m.assessment == last.assessment]
        return [self._of_key(m) for m in together]

    def _figures(self) -> list[MeasureKey]:
        """One measure in figures for each sitting: scaled, else raw, else percent."""
        order = {"scaled": 0, "raw": 1, "percent": 2}
        return sorted(
            (m for m in self.snapshot.measures if m.role == "result" and m.score in order),
            key=lambda m: order[m.score],
        )

    def _of_key(self, key: MeasureKey) -> Quantity:
        return self.quantity(
            q.Measure(
                assessment=key.assessment.id,
                subject=key.subject.id if key.subject else None,
                sitting=key.sitting.id,
                score=key.score,
            )
        )

    def earlier(self, m: q.AnyMeasure, own: Quantity) -> Quantity:
        """The earlier measure of the same students; “same” and “back” start from `own`."""
        if not isinstance(m, q.Measure):
            raise not_yet("derived measures as earlier sittings")
        mine = own.of.key if own.of else own.key
        if not _relative(m):
            found = self.quantity(m, Wanted(steps=bool(own.steps)))
        else:
            back = m.sitting.back if isinstance(m.sitting, q.Back) else 1
            before = {
                k.sitting.id: k for k in self.snapshot.measures
                if k.assessment == mine.assessment and k.subject == mine.subject
                and k.role == "result" and k.date < mine.date
            }  # fmt: skip
            ordered = sorted(before.values(), key=lambda k: -k.date.toordinal())
            if len(ordered) < back:
                raise NotFound(f"{own.label} has no earlier sitting.")
            key = ordered[back - 1]
            found = self.quantity(
                q.Measure(
                    assessment=key.assessment.id,
                    subject=key.subject.id if key.subject else None,
                    sitting=key.sitting.id,
                    score=mine.score,
                ),
                Wanted(steps=bool(own.steps)),
            )
        if found.key.date >= mine.date:
            raise InvalidQuestion(f"{found.label} is not earlier than {own.label}.")
        if found.score != own.score:
            raise InvalidQuestion(
                f"{found.label} is in another kind of score than {own.label}, so they cannot be "
                "subtracted.",
                next_step="Measure it against where they started instead.",
            )
        return found

    def claimed(self, against: q.AgainstTarget | q.AgainstPredicted, own: Quantity) -> Quantity:
        """The target or prediction about a quantity's sitting, in the same kind of score."""
        if isinstance(against, q.AgainstTarget):
            about, role, kind = against.target.about, "target", against.target.kind
        else:
            about, role, kind = against.predicted.about, "predicted", None
        if about != "same":
            raise not_yet("targets about another measure")
        ask = own.of.ask if own.of else own.ask
        assert isinstance(ask, q.Measure)
        changed = {"role": role, "kind": kind, "part": None}
        return self.quantity(ask.model_copy(update=changed), Wanted(steps=bool(own.steps)))


def _relative(m: q.AnyMeasure) -> bool:
    return isinstance(m, q.Measure) and "same" in (m.assessment, m.subject, m.sitting)


def _by_step(m: q.AnyMeasure) -> bool:
    return isinstance(m, q.Measure) and m.score in ("level", "grade")

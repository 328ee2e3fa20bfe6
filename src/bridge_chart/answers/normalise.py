"""The normalised question: names turned into ids, defaults filled, what is not built refused."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from bridge_chart.store.snapshot import MeasureKey, Named, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound, NotYet

NUMERIC = ("scaled", "raw", "percent", "points")
SHOWN = ("spans", "table", "students", "strip")


def refuse_not_yet(question: q.Question) -> None:
    """Refuse, by name, every part of the format that this version does not answer."""
    first = question.what[0]
    parts: dict[str, bool] = {
        f"show “{question.show}”": question.show not in SHOWN,
        "several measures in one question": len(question.what) > 1,
        "derived measures and statistics": not isinstance(first, q.Measure),
        "“also”": bool(question.also),
        "two splits at once": len(question.split) > 1,
        "“layout”": question.layout is not None,
        "another basis than the district": question.basis != "district",
        f"unit “{question.unit}”": question.unit != "own",
        "a matched cohort": question.cohort != "present",
        "“over” year levels": question.over != "sitting",
        "“focus”": question.focus is not None,
        "plans": question.plan is not None,
        "“options”": bool(question.options),
        "reference rows other than the district": any(r != "district" for r in question.reference),
        "yardsticks other than where they started": question.against is not None
        and not isinstance(question.against, q.AgainstPrior),
    }
    if isinstance(question.against, q.AgainstPrior):
        prior = question.against.prior
        parts |= {
            f"expectation by “{prior.expect}”": prior.expect == "table",
            f"the model “{prior.model}”": prior.model != "simple",
            "covariates and expectation tables": bool(prior.covariates) or prior.table is not None,
            "several priors": prior.priors != "declared" and len(prior.priors) > 1,
        }
    refused = next((what for what, found in parts.items() if found), None)
    if refused:
        raise not_yet(refused)


def not_yet(what: str) -> NotYet:
    return NotYet(
        f"This version does not answer {what} yet.",
        next_step="docs/question.md says what it answers.",
    )


def normalise(question: q.Question, snapshot: Snapshot) -> q.Question:
    """The question with ids for names and its measures settled; errors as in `terms.errors`."""
    refuse_not_yet(question)
    names = Names(snapshot)
    measure = question.what[0]
    assert isinstance(measure, q.Measure)
    bound, key = names.measure(measure)
    changed: dict[str, Any] = {
        "what": [bound],
        "who": question.who.model_copy(
            update={"all_": [names.condition(c, key) for c in question.who.all_]}
        ),
        "split": [names.dimension(d) for d in question.split],
        "against": names.yardstick(question.against, key),
    }
    return question.model_copy(update=changed)


class Names:
    """Finds what a name or an id means in one snapshot."""

    def __init__(self, snapshot: Snapshot) -> None:
        self.snapshot = snapshot

    def _one(self, what: str, ref: q.Ref, known: Iterable[Named]) -> int:
        return one_of(what, ref, [(item.id, item.name) for item in known])

    def school(self, ref: q.Ref) -> int:
        return self._one("school", ref, self.snapshot.schools)

    def characteristic(self, ref: q.Ref) -> int:
        known = [Named(c.id, c.name) for c in self.snapshot.characteristics]
        return self._one("characteristic", ref, known)

    def option(self, characteristic_id: int, ref: q.Ref) -> int:
        item = next(c for c in self.snapshot.characteristics if c.id == characteristic_id)
        return self._one(f"value of {item.name}", ref, item.options)

    def school_class(self, ref: q.Ref) -> int:
        places = {s.id: s.name for s in self.snapshot.schools}
        named = [
            (c.id, f"{places[c.school_id]}: {c.name}, {c.academic_year}", c.name)
            for c in self.snapshot.classes
            if c.school_id in places
        ]
        full = [(identity, long) for identity, long, _ in named]
        short = [(identity, name) for identity, _, name in named if name == ref]
        if len(short) > 1:
            candidates = [{"id": i, "name": long} for i, long, name in named if name == ref]
            raise Ambiguous(
                f"There are {len(short)} classes “{ref}”.",
                next_step="Give the id, or the name with school and year.",
                candidates=candidates[:20],
            )
        return one_of("class", ref, [*full, *short])

    def measure(self, m: q.Measure) -> tuple[q.Measure, MeasureKey]:
        """The measure with ids, and the kept measure it means."""
        for what, found in {
            f"the role “{m.role}”": m.role != "result" or m.kind is not None,
            "collected dates": m.collected is not None,
            "half-levels and steps": m.grain is not None,
            "forms": m.form is not None,
            f"the attempt “{m.attempt}”": m.attempt != "official",
            "parts of a test": m.part is not None,
            "“each” and “same”": {"each", "same"} & {m.assessment, m.subject, m.sitting} != set(),
        }.items():
            if found:
                raise not_yet(what)
        every = self.snapshot.measures
        assessment = self._one("test", m.assessment, _unique(k.assessment for k in every))
        mine = [k for k in every if k.assessment.id == assessment]
        mine = self._of_subject(mine, m)
        mine = self._of_sitting(mine, m.sitting)
        key = self._of_score(mine, m.score)
        bound = m.model_copy(
            update={
                "assessment": assessment,
                "subject": key.subject.id if key.subject else None,
                "sitting": key.sitting.id,
                "score": key.score,
            }
        )
        return bound, key

    def _of_subject(self, mine: list[MeasureKey], m: q.Measure) -> list[MeasureKey]:
        if m.subject is not None:
            subject = self._one("subject", m.subject, _unique(k.subject for k in mine if k.subject))
            return [k for k in mine if k.subject and k.subject.id == subject]
        without = [k for k in mine if k.subject is None]
        subjects = _unique(k.subject for k in mine if k.subject)
        if without or len(subjects) == 1:
            return without or mine
        raise Ambiguous(
            "This test has several subjects; the question must name one.",
            candidates=[{"id": s.id, "name": s.name} for s in subjects],
        )

    def _of_sitting(self, mine: list[MeasureKey], ref: q.Ref | q.Back) -> list[MeasureKey]:
        if ref == "latest" or isinstance(ref, q.Back):
            ordered = list(dict.fromkeys(k.sitting.id for k in sorted(mine, key=lambda k: k.date)))
            back = ref.back if isinstance(ref, q.Back) else 0
            if back >= len(ordered):
                raise NotFound(f"There is no sitting {back} before the latest one.")
            sitting = ordered[-1 - back]
        else:
            sitting = self._one("sitting", ref, _unique(k.sitting for k in mine))
        return [k for k in mine if k.sitting.id == sitting]

    def _of_score(self, mine: list[MeasureKey], score: str) -> MeasureKey:
        if score not in ("auto", *NUMERIC):
            raise not_yet(f"comparing by {score}")
        wanted = NUMERIC if score == "auto" else (score,)
        for kind in wanted:
            for key in mine:
                if key.score == kind:
                    return key
        raise NotFound(
            f"This sitting has no {'score in figures' if score == 'auto' else score}.",
            next_step=f"It has: {', '.join(k.score for k in mine)}.",
        )

    def condition(self, c: q.Condition, key: MeasureKey) -> q.Condition:
        """The condition with ids."""
        if isinstance(c, q.AnyOf):
            return c.model_copy(update={"any_": [self.condition(x, key) for x in c.any_]})
        if isinstance(c, q.Not):
            return c.model_copy(update={"not_": self.condition(c.not_, key)})
        if isinstance(c, q.CharacteristicIs):
            identity = self.characteristic(c.characteristic)
            options = [None if v is None else self.option(identity, v) for v in c.in_]
            return c.model_copy(update={"characteristic": identity, "in_": _tidy(options)})
        if isinstance(c, q.FieldIs):
            return self._field(c)
        if isinstance(c, q.MeasureIs):
            return self._measure_is(c)
        if isinstance(c, q.Missing):
            return self._missing(c)
        raise not_yet("saved groups as conditions")

    def _missing(self, c: q.Missing) -> q.Missing:
        if not isinstance(c.measure, q.Measure):
            raise not_yet("derived measures in conditions")
        bound, own = self.measure(c.measure)
        return c.model_copy(update={"measure": bound, "against": self.yardstick(c.against, own)})

    def _measure_is(self, c: q.MeasureIs) -> q.MeasureIs:
        ranged = ("from_", "to", "above", "below")
        unbuilt = ("level", "status", "form", "option", "boundary", "within", "side")
        if not isinstance(c.measure, q.Measure) or any(getattr(c, k) is not None for k in unbuilt):
            raise not_yet("this kind of condition on a measure")
        if all(getattr(c, k) is None for k in ranged):
            raise InvalidQuestion("A condition on a measure must have from, to, above or below.")
        return c.model_copy(update={"measure": self.measure(c.measure)[0]})

    def _field(self, c: q.FieldIs) -> q.FieldIs:
        if c.of is not None:
            raise not_yet("classes of a subject")
        if c.in_ is None:
            if c.field != "year_level" or (c.from_ is None and c.to is None):
                raise InvalidQuestion(f"A condition on {c.field} must have “in”.")
            return c
        finders: dict[str, Callable[[q.Ref], q.Ref]] = {
            "school": self.school,
            "class": self.school_class,
            "year_level": _whole_number,
            "teacher": self._teacher,
        }
        find = finders.get(c.field)
        if find is None:
            raise not_yet(f"the field “{c.field}”")
        values = [None if value is None else find(value) for value in c.in_]
        return c.model_copy(update={"in_": _tidy(values)})

    def _teacher(self, ref: q.Ref) -> str:
        if ref not in self.snapshot.staff:
            raise _nowhere("teacher", ref, [])
        return str(ref)

    def dimension(self, d: q.Dimension) -> q.Dimension:
        """The dimension with ids."""
        if isinstance(d, q.ByCharacteristic):
            return d.model_copy(update={"characteristic": self.characteristic(d.characteristic)})
        if isinstance(d, q.ByField) and d.field != "course" and d.of is None:
            return d
        raise not_yet("this kind of split")

    def yardstick(self, against: q.Yardstick | None, key: MeasureKey) -> q.Yardstick | None:
        """The yardstick with a concrete prior: the declared one is the sitting before."""
        if against is None:
            return None
        if not isinstance(against, q.AgainstPrior):
            raise not_yet("this yardstick")
        if against.prior.priors == "declared":
            prior = self.declared_prior(key)
        else:
            first = against.prior.priors[0]
            if not isinstance(first, q.Measure):
                raise not_yet("this kind of prior")
            prior = first
        bound, prior_key = self.measure(prior)
        if prior_key.date >= key.date:
            raise InvalidQuestion(
                f"A prior must be earlier than what it is held against. {prior_key.label} is not "
                f"earlier than {key.label}."
            )
        spec = against.prior.model_copy(update={"priors": [bound]})
        return against.model_copy(update={"prior": spec})

    def declared_prior(self, key: MeasureKey) -> q.Measure:
        """The same test, subject and kind of score, one sitting earlier."""
        earlier = [
            m
            for m in self.snapshot.measures
            if m.assessment == key.assessment
            and m.subject == key.subject
            and m.score == key.score
            and m.date < key.date
        ]
        if not earlier:
            raise NotFound(
                f"{key.label} has no earlier sitting, so nobody has a starting score.",
                next_step="Choose another yardstick, or bring in the earlier sitting.",
            )
        last = max(earlier, key=lambda m: m.date)
        return q.Measure(
            assessment=last.assessment.id,
            subject=last.subject.id if last.subject else None,
            sitting=last.sitting.id,
            score=last.score,
        )


def one_of(what: str, ref: q.Ref, known: list[tuple[int, str]]) -> int:
    """The id that a reference means: a number is an id, a text a name, whatever its case."""
    if isinstance(ref, int):
        if ref in [identity for identity, _ in known]:
            return ref
        raise _nowhere(what, ref, [])
    exact = {identity for identity, name in known if name == ref}
    found = exact or {identity for identity, name in known if name.lower() == ref.lower()}
    if len(found) == 1:
        return found.pop()
    if found:
        candidates = [{"id": i, "name": name} for i, name in known if i in found]
        raise Ambiguous(f"Several things are called “{ref}”.", candidates=candidates)
    raise _nowhere(what, ref, [name for _, name in known])


def _nowhere(what: str, ref: q.Ref, known: list[str]) -> NotFound:
    hint = f"Known are: {', '.join(known[:12])}." if known else ""
    return NotFound(f"There is no {what} “{ref}”.", next_step=hint)


def _whole_number(value: q.Ref) -> int:
    if not isinstance(value, int):
        raise InvalidQuestion(f"A year level must be a whole number; “{value}” is not.")
    return value


def _tidy(values: Iterable[q.Ref | None]) -> list[q.Ref | None]:
    """Without repeats, in a fixed order, unknown last."""
    return sorted(set(values), key=lambda v: (v is None, str(type(v)), v if v is not None else 0))


def _unique(items: Iterable[Named]) -> list[Named]:
    return list(dict.fromkeys(items))

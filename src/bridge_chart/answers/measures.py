"""Which quantities a question's measures mean: names to kept measures, “each” to all of them."""

from __future__ import annotations

from dataclasses import dataclass, replace

from bridge_chart.answers import quantities as quantity
from bridge_chart.answers.names import Places, not_yet, one_of, one_of_named, unique
from bridge_chart.answers.quantities import DERIVED_NAMES, Quantity
from bridge_chart.store.codes import SCORE_NAMES, STEPPED
from bridge_chart.store.snapshot import MeasureKey
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound

NUMERIC = ("scaled", "raw", "percent", "points")
STEPS = ("level", "grade")
BY_STEP = "levels"
MOST_QUANTITIES = 60


@dataclass(frozen=True)
class Wanted:
    """What the show needs: figures, or steps of a scale."""

    steps: bool = False


class Measures(Places):
    """Resolves measures."""

    def quantities(self, what: q.What, wanted: Wanted = Wanted()) -> list[Quantity]:
        """Every quantity that an entry of `what` means, “each” written out."""
        if isinstance(what, q.Figure):
            raise not_yet("statistics other than the mean")
        if isinstance(what, q.Derived):
            steps = Wanted(steps=what.derive == "steps")
            return [self.derived(what, of) for of in self.quantities(what.of, steps)]
        found = []
        for key in self._keys(what):
            base = self._expressed(self._plain(what, key), what.score, wanted)
            found += self._parts(what, self._on_form(what, base))
        if len(found) > MOST_QUANTITIES:
            raise InvalidQuestion(
                f"This asks for {len(found)} measures at once; the most is {MOST_QUANTITIES}."
            )
        return found

    def quantity(self, m: q.AnyMeasure, wanted: Wanted = Wanted()) -> Quantity:
        """The one quantity that a measure means; Ambiguous where it means several."""
        found = self.quantities(m, wanted)
        if len(found) > 1:
            raise InvalidQuestion("Here one measure is meant; “each” means several.")
        return found[0]

    def derived(self, ask: q.Derived, of: Quantity) -> Quantity:
        """Something worked out from `of`; its values come from `yardstick.derived_values`."""
        if ask.derive not in DERIVED_NAMES:
            raise not_yet(f"the derived measure “{ask.derive}”")
        if ask.derive in ("span", "gain", "steps") and ask.against is None:
            raise InvalidQuestion(f"The derived measure “{ask.derive}” must have “against”.")
        bound = ask.model_copy(update={"of": of.ask})
        words = {"span": "span", "gain": "gain", "steps": "steps made",
                 "percentile": "national percentile rank"}[ask.derive]  # fmt: skip
        score = "percentile" if ask.derive == "percentile" else of.score
        return replace(
            of, ask=bound, of=of, score=score, steps=(), pass_at=None, decimals=1,
            name=f"{bound.model_dump_json(by_alias=True, exclude_defaults=True)}",
            label=f"{of.label}, {words}",
        )  # fmt: skip

    def _plain(self, m: q.Measure, key: MeasureKey) -> Quantity:
        for what, found in {
            "collected dates": m.collected is not None,
            "finer steps of grades": m.grain == "step",
            f"the attempt “{m.attempt}”": m.attempt != "official",
        }.items():
            if found:
                raise not_yet(what)
        ask = m.model_copy(
            update={
                "assessment": key.assessment.id,
                "subject": key.subject.id if key.subject else None,
                "sitting": key.sitting.id,
                "kind": key.kind or None,
                "score": key.score,
            }
        )
        return quantity.plain(key, ask)

    def _keys(self, m: q.Measure) -> list[MeasureKey]:
        """The kept measures that it means, in any score; one for each subject and sitting."""
        if m.assessment == "each" or "same" in (m.assessment, m.subject, m.sitting):
            raise not_yet("“same” here, and each test at once")
        every = self.snapshot.measures
        assessment = one_of_named("test", m.assessment, unique(k.assessment for k in every))
        mine = [k for k in every if k.assessment.id == assessment]
        mine = self._of_role(mine, m)
        subjects = self._subjects(mine, m)
        keys = []
        for subject in subjects:
            of_subject = [k for k in mine if (k.subject.id if k.subject else None) == subject]
            for sitting in self._sittings(of_subject, m.sitting, len(subjects) > 1):
                held = [k for k in of_subject if k.sitting.id == sitting]
                keys.append(self._of_score(held, m.score))
        if not keys:
            raise NotFound(f"No subject of this test has the sitting “{m.sitting}”.")
        return keys

    def _of_role(self, mine: list[MeasureKey], m: q.Measure) -> list[MeasureKey]:
        held = [k for k in mine if k.role == m.role]
        kinds = list(dict.fromkeys(k.kind for k in held))
        if not held:
            raise NotFound(f"This test has no {m.role} on record.")
        if m.role == "result" or (m.kind is None and len(kinds) == 1):
            return held
        named = [(n, kind) for n, kind in enumerate(kinds)]
        if m.kind is None:
            raise Ambiguous(
                f"There are several kinds of {m.role}; the question must name one.",
                candidates=[{"id": n, "name": kind} for n, kind in named],
            )
        wanted = kinds[one_of(m.role, m.kind, named)]
        return [k for k in held if k.kind == wanted]

    def _subjects(self, mine: list[MeasureKey], m: q.Measure) -> list[int | None]:
        subjects = unique(k.subject for k in mine if k.subject)
        if m.subject == "each":
            return [s.id for s in subjects] or [None]
        if m.subject is not None:
            return [one_of_named("subject", m.subject, subjects)]
        if any(k.subject is None for k in mine):
            return [None]
        if len(subjects) == 1:
            return [subjects[0].id]
        raise Ambiguous(
            "This test has several subjects; the question must name one.",
            candidates=[{"id": s.id, "name": s.name} for s in subjects],
        )

    def _sittings(self, mine: list[MeasureKey], ref: q.Ref | q.Back, several: bool) -> list[int]:
        ordered = list(
            dict.fromkeys((k.sitting.id, k.sitting.name) for k in sorted(mine, key=_when))
        )
        if ref == "each":
            return [identity for identity, _ in ordered]
        if ref == "latest" or isinstance(ref, q.Back):
            back = ref.back if isinstance(ref, q.Back) else 0
            if back < len(ordered):
                return [ordered[-1 - back][0]]
            if several:
                return []
            raise NotFound(f"There is no sitting {back} before the latest one.")
        if several:
            # Sittings of several subjects share their name; some subject may lack this one.
            name = next((k.sitting.name for k in self.snapshot.measures
                         if k.sitting.id == ref), ref)  # fmt: skip
            return [i for i, called in ordered if called.lower() == str(name).lower()]
        return [one_of("sitting", ref, ordered)]

    def _of_score(self, mine: list[MeasureKey], score: str) -> MeasureKey:
        held = {k.score: k for k in mine}
        if score == "auto":
            return next(held[s] for s in (*NUMERIC, *STEPS, "percentile") if s in held)
        if score in held:
            return held[score]
        if score == "points" and "grade" in held:
            return held["grade"]
        if score in ("raw", "percent") and self.snapshot.papers(mine[0].sitting.id):
            return next(iter(held.values()))
        raise NotFound(
            f"This sitting has no {SCORE_NAMES[score]}.",
            next_step=f"It has: {', '.join(SCORE_NAMES[s] for s in held)}.",
        )

    def _expressed(self, base: Quantity, score: str, wanted: Wanted) -> Quantity:
        """In the score that the show needs: the same sitting's levels, or figures."""
        ask, key = base.ask, base.key
        assert isinstance(ask, q.Measure)
        if ask.part is not None:
            return base
        if wanted.steps:
            if key.score not in STEPPED:
                other = quantity.stepped_sibling(self.snapshot, key)
                if other is None or key.role != "result":
                    raise NotFound(
                        f"{key.label} has no levels or grades.",
                        next_step="Look at it as Spans or Spread, or bring in its scale.",
                    )
                base = self._plain(ask, other)
            return quantity.in_halves(base) if ask.grain == "half" else base
        if key.score not in STEPPED:
            return base
        if any(p is not None for p in key.points):
            return quantity.in_points(base)
        other = quantity.numeric_sibling(self.snapshot, key)
        if other is not None and key.role == "result":
            return self._plain(ask, other)
        raise NotFound(
            f"{key.label} is in {SCORE_NAMES[key.score]}s, which have no points, so no mean.",
            next_step="Look at it as Levels, or bring in a scale with points.",
        )

    def _on_form(self, m: q.Measure, base: Quantity) -> Quantity:
        if m.form is None:
            return base
        return quantity.on_form(base, one_of_named("form", m.form, base.key.forms))

    def _parts(self, m: q.Measure, base: Quantity) -> list[Quantity]:
        """The base itself, or its parts: one, several questions at once, or each."""
        if m.part is None:
            return [base]
        part = m.part if isinstance(m.part, q.Part) else q.Part(kind="strand", is_=m.part)
        score = "raw" if m.score == "raw" else "percent"
        base = replace(base, score=score)
        known = quantity.parts_of(self.snapshot, base.key, part.kind)
        if not known:
            raise NotFound(
                f"{base.key.label} has no {part.kind}s.",
                next_step="Bring in its marks by question and its question table.",
            )
        if part.tagged:
            return [quantity.of_part(base, part, " and ".join(part.tagged))]
        named = list(enumerate(known))
        wanted = known if part.is_ in (None, "each") else [
            known[one_of(part.kind, part.is_ or "", named)]
        ]  # fmt: skip
        return [
            quantity.of_part(base, part.model_copy(update={"is_": name}), name) for name in wanted
        ]


def _when(key: MeasureKey) -> tuple[int, int]:
    return key.date.toordinal(), key.sitting.id

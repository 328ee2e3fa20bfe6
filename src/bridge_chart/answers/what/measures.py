"""Which quantities a question's measures mean: names to kept measures, “each” to all of them."""

from __future__ import annotations

from bridge_chart.answers.bound import quantity as made
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.bound.names import not_yet, one_of, one_of_named, unique
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.what.derived import bind_derived, in_levels
from bridge_chart.answers.what.parts import kinds_in, one_of_kinds, parts_of, tags_of
from bridge_chart.answers.what.share import bind_share
from bridge_chart.answers.what.values import IN_STEPS, sibling
from bridge_chart.store.codes import IN_FIGURES, SCORE_NAMES, STEPPED
from bridge_chart.store.reference_tables import same
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound
from bridge_chart.terms.wording import listed

NUMERIC = ("scaled", "raw", "percent", "points", "credits")
MOST_QUANTITIES = 160


class Measures:
    """Finds what the measures of one question mean in one snapshot."""

    def __init__(self, snapshot: Snapshot, binding: Binding) -> None:
        self.snapshot = snapshot
        self.binding = binding

    def quantities(self, what: q.What, *, steps: bool = False) -> list[Quantity]:
        """Every quantity that an entry of `what` means, “each” written out. `steps`: the show
        wants levels or grades, not figures."""
        if isinstance(what, q.Figure):
            return self._figure(what, steps)
        if isinstance(what, q.Derived):
            return self._derived(what, steps)
        found = []
        for key in self._keys(what):
            base = self._expressed(key, what, steps)
            found += self._parts(what, self._on_form(what, base))
        if len(found) > MOST_QUANTITIES:
            raise InvalidQuestion(
                f"This asks for {len(found)} measures at once; the most is {MOST_QUANTITIES}."
            )
        return found

    def _derived(self, what: q.Derived, steps: bool) -> list[Quantity]:
        """Worked out of levels or of figures; where both may be, of the first that there is."""
        *first, last = in_levels(what)
        for levels in first:
            try:
                return self._worked(what, levels, steps)
            except NotFound:
                continue
        return self._worked(what, last, steps)

    def _worked(self, what: q.Derived, levels: bool, steps: bool) -> list[Quantity]:
        return [
            bind_derived(what, of, self.binding, steps=steps)
            for of in self.quantities(what.of, steps=levels)
        ]

    def quantity(self, m: q.What, *, steps: bool = False) -> Quantity:
        """The one quantity that a measure means; an error where it means several."""
        found = self.quantities(m, steps=steps)
        if len(found) > 1:
            raise InvalidQuestion("Here one measure is meant; “each” means several.")
        return found[0]

    def _figure(self, what: q.Figure, steps: bool) -> list[Quantity]:
        shares = what.statistic == "share"
        if not shares and (what.cut is not None or what.meets):
            raise InvalidQuestion("“cut” and “meets” say what a share is of.")
        if what.statistic == "mean":
            return self.quantities(what.measure, steps=steps)
        if not shares:
            raise not_yet(f"the statistic “{what.statistic}”")
        by_step = not what.meets and not isinstance(what.cut, float)
        of = self.quantities(what.measure, steps=steps or by_step)
        return [bind_share(what, one, self.binding, steps=steps) for one in of]

    def _keys(self, m: q.Measure) -> list[MeasureKey]:
        """The kept measures that it means, in any score; one for each subject and sitting."""
        if m.assessment == "each" or "same" in (m.assessment, m.subject, m.sitting):
            raise not_yet("“same” here, and each test at once")
        for what, found in {
            "collected dates": m.collected is not None,
            "finer steps of grades": m.grain == "step",
            f"the attempt “{m.attempt}”": m.attempt != "official",
        }.items():
            if found:
                raise not_yet(what)
        every = [*self.snapshot.measures, *self.snapshot.credit_years]
        assessment = one_of_named("test", m.assessment, unique(k.assessment for k in every))
        mine = [k for k in every if k.assessment.id == assessment]
        mine = self._of_role(mine, m)
        subjects = self._subjects(mine, m)
        keys = []
        for subject in subjects:
            of_subject = [k for k in mine if (k.subject.id if k.subject else None) == subject]
            for sitting in self._sittings(of_subject, m.sitting, len(subjects) > 1):
                held = [k for k in of_subject if k.sitting.id == sitting]
                keys.append(self._of_score(held, m.score, parted=m.part is not None))
        if not keys:
            raise NotFound(f"No subject of this test has the sitting “{m.sitting}”.")
        return keys

    def _of_role(self, mine: list[MeasureKey], m: q.Measure) -> list[MeasureKey]:
        if m.role == "result" and m.kind is not None:
            raise InvalidQuestion("“kind” says which target or prediction is meant, not a result.")
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
        ordered = unique(k.sitting for k in sorted(mine, key=_when))
        if ref == "each":
            return [sitting.id for sitting in ordered]
        if ref == "latest" or isinstance(ref, q.Back):
            back = ref.back if isinstance(ref, q.Back) else 0
            if back < len(ordered):
                return [ordered[-1 - back].id]
            if several:
                return []
            raise NotFound(f"There is no sitting {back} before the latest one.")
        if several:
            # Sittings of several subjects share their name; some subject may lack this one.
            name = next((k.sitting.name for k in self.snapshot.measures
                         if ref in k.sitting.ids), ref)  # fmt: skip
            return [s.id for s in ordered if s.name.lower() == str(name).lower()]
        return [one_of_named("sitting", ref, ordered)]

    def _of_score(self, mine: list[MeasureKey], score: str, *, parted: bool) -> MeasureKey:
        held = {k.score: k for k in mine}
        if score == "auto":
            return next(held[s] for s in (*NUMERIC, *IN_STEPS, "percentile") if s in held)
        if score in held:
            return held[score]
        if score == "points" and "grade" in held:
            return held["grade"]
        if parted and score in ("raw", "percent"):
            return next(iter(held.values()))
        raise NotFound(
            f"This sitting has no {SCORE_NAMES[score]}.",
            next_step=f"It has: {', '.join(SCORE_NAMES[s] for s in held)}.",
        )

    def _expressed(self, key: MeasureKey, m: q.Measure, steps: bool) -> Quantity:
        """In the score that the show needs: the same sitting's levels, or figures."""
        if m.part is not None:
            return made.plain(key)
        if steps:
            if key.score not in STEPPED:
                other = sibling(self.snapshot, key, IN_STEPS)
                if other is None or key.role != "result":
                    raise NotFound(
                        f"{key.label} has no levels or grades.",
                        next_step="Look at it as Spans or Spread, or bring in its scale.",
                    )
                key = other
            found = made.plain(key)
            return made.in_halves(found) if m.grain == "half" else found
        if key.score not in STEPPED:
            return made.plain(key)
        if any(p is not None for p in key.points):
            return made.in_points(made.plain(key))
        figures = sibling(self.snapshot, key, IN_FIGURES)
        if figures is not None and key.role == "result":
            return made.plain(figures)
        raise NotFound(
            f"{key.label} is in {SCORE_NAMES[key.score]}s, which have no points, so no mean.",
            next_step="Look at it as Levels, or bring in a scale with points.",
        )

    def _on_form(self, m: q.Measure, base: Quantity) -> Quantity:
        if m.form is None:
            return base
        return made.on_form(base, one_of_named("form", m.form, base.key.forms))

    def _parts(self, m: q.Measure, base: Quantity) -> list[Quantity]:
        """The base itself, or its parts: one, several questions at once, or each."""
        if m.part is None:
            return [base]
        part = part_of(m)
        assert part is not None
        if m.score not in ("auto", "raw", "percent"):
            raise InvalidQuestion(
                f"Parts of a test are in raw marks or percent, not as {SCORE_NAMES[m.score]}."
            )
        score = "raw" if m.score == "raw" else "percent"
        kinds = kinds_in(self.snapshot, base.key)
        kind = one_of_kinds(part.kind, kinds)
        known = parts_of(self.snapshot, base.key, kind)
        if not known:
            usual = kind in q.PART_KINDS
            raise NotFound(
                f"{base.key.label} has no {kind}s."
                if usual
                else f"No table calls a tag of {base.key.label} “{kind}”.",
                next_step="Bring in its marks by question and its question table."
                if usual
                else f"It has {listed(kinds, 8)}.",
            )
        if part.tagged is not None:
            return [made.of_part(base, self._tagged(base, part), score)]
        named = list(enumerate(known))
        wanted = known if part.is_ in (None, "each") else [
            known[one_of(kind, part.is_ or "", named)]
        ]  # fmt: skip
        return [made.of_part(base, PartId(kind, name), score) for name in wanted]

    def _tagged(self, base: Quantity, part: q.Part) -> PartId:
        if part.kind != "question" or part.is_ is not None or not part.tagged:
            raise InvalidQuestion(
                "“tagged” takes the questions that carry some tags; the kind is “question” then, "
                "and “is” stays away."
            )
        known = list(enumerate(tags_of(self.snapshot, base.key)))
        tags = {known[one_of("tag", tag, known)][1] for tag in part.tagged}
        return PartId(part.kind, tagged=tuple(sorted(tags, key=same)))


def part_of(m: q.Measure) -> q.Part | None:
    """The part that a measure names; a text alone is a strand."""
    if m.part is None or isinstance(m.part, q.Part):
        return m.part
    return q.Part(kind="strand", is_=m.part)


def stands_for(what: q.What, at: int, found: Quantity, *, every_sitting: bool) -> q.Stands:
    """What tells a quantity from the others of its entry of `what`, so that a mark can say it."""
    m = innermost(what)
    part = part_of(m)
    each = part is not None and part.tagged is None and part.is_ in (None, "each")
    subject = found.key.subject.id if found.key.subject else None
    return q.Stands(
        at=at,
        subject=subject if m.subject == "each" else None,
        sitting=found.key.sitting.id if every_sitting or m.sitting == "each" else None,
        part=found.part.name if each and found.part is not None else None,
    )


def innermost(what: q.What) -> q.Measure:
    """The kept measure at the bottom of an entry of `what`."""
    while not isinstance(what, q.Measure):
        what = what.of if isinstance(what, q.Derived) else what.measure
    return what


def changed(what: q.What, **to: object) -> q.What:
    """An entry of `what` with other keys in its innermost measure."""
    if isinstance(what, q.Derived):
        return what.model_copy(update={"of": changed(what.of, **to)})
    if isinstance(what, q.Figure):
        return what.model_copy(update={"measure": changed(what.measure, **to)})
    return what.model_copy(update=to)


def _when(key: MeasureKey) -> tuple[int, int]:
    return key.date.toordinal(), key.sitting.id

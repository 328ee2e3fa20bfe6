"""What a name or an id means in one snapshot: schools, classes, characteristics, their values."""

from __future__ import annotations

from collections.abc import Iterable

from bridge_chart.store.snapshot import Characteristic, Named, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound, NotYet
from bridge_chart.terms.wording import capitalised
from bridge_chart.terms.words import spoken


def not_yet(what: str) -> NotYet:
    return NotYet(
        f"This version does not answer {what} yet.",
        next_step="docs/question.md says what it answers.",
    )


class Places:
    """Finds schools, classes, teachers, characteristics and their values."""

    def __init__(self, snapshot: Snapshot) -> None:
        self.snapshot = snapshot

    def school(self, ref: q.Ref) -> int:
        return one_of_named("school", ref, self.snapshot.schools)

    def characteristic(self, ref: q.Ref) -> int:
        """By the district's word, or as files call it; `access.words` keeps the two apart."""
        of = self.snapshot.characteristics
        known = unique(Named(c.id, name, c.also) for c in of for name in (c.name, c.called))
        return one_of_named("characteristic", ref, known)

    def option(self, characteristic_id: int, ref: q.Ref) -> int:
        item = next(c for c in self.snapshot.characteristics if c.id == characteristic_id)
        return one_of_named(f"value of {item.name}", ref, item.options)

    def school_class(self, ref: q.Ref) -> int:
        if isinstance(ref, int):
            known = [(c.id, c.name, c.also) for c in self.snapshot.classes]
            return one_of_named("class", ref, [Named(*one) for one in known])
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

    def student(self, ref: q.Ref) -> int:
        """A student is named by the opaque id alone, never by number or name."""
        if isinstance(ref, int) and (self.snapshot.student_ids == ref).any():
            return ref
        raise nowhere("student", ref, [])

    def teacher(self, ref: q.Ref) -> str:
        if ref not in self.snapshot.staff:
            raise nowhere("teacher", ref, [])
        return str(ref)

    def course(self, ref: q.Ref) -> str:
        known = courses_of(self.snapshot)
        if ref not in known:
            raise nowhere("course", ref, known)
        return str(ref)


def grouping(snapshot: Snapshot) -> list[Characteristic]:
    """The characteristics whose values are groups; a text tells of one student."""
    return [item for item in snapshot.characteristics if item.holds != "text"]


def courses_of(snapshot: Snapshot) -> list[str]:
    """What classes are taught, where rosters say so; in the order of their names."""
    return sorted({course for item in snapshot.classes for course in item.courses})


def one_of_named(what: str, ref: q.Ref, known: Iterable[Named]) -> int:
    """The id that a reference means among named things; an id that means the same as another
    means it."""
    items = list(known)
    stands = {other: item.id for item in items for other in item.also}
    ref = stands.get(ref, ref) if isinstance(ref, int) else ref
    return one_of(what, ref, [(item.id, item.name) for item in items])


def one_of(what: str, ref: q.Ref, known: list[tuple[int, str]]) -> int:
    """The id that a reference means: a number is an id, a text a name, whatever its case."""
    if isinstance(ref, int):
        if ref in [identity for identity, _ in known]:
            return ref
        raise nowhere(what, ref, [])
    exact = {identity for identity, name in known if name == ref}
    found = exact or {identity for identity, name in known if name.lower() == ref.lower()}
    if len(found) == 1:
        return found.pop()
    if found:
        candidates = [{"id": i, "name": name} for i, name in known if i in found]
        raise Ambiguous(f"Several things are called “{ref}”.", candidates=candidates)
    raise nowhere(what, ref, [name for _, name in known])


def nowhere(what: str, ref: q.Ref, known: list[str]) -> NotFound:
    hint = f"Known are: {', '.join(known[:12])}." if known else ""
    return NotFound(f"There is no {what} “{ref}”.", next_step=hint)


def whole_number(value: q.Ref) -> int:
    if not isinstance(value, int):
        raise InvalidQuestion(
            f"{capitalised(spoken().some_year_level)} must be a whole number; “{value}” is not."
        )
    return value


def tidy_values(values: Iterable[q.Ref | None]) -> tuple[q.Ref | None, ...]:
    """Without repeats, in a fixed order, unknown last."""
    order = sorted(set(values), key=lambda v: (v is None, str(type(v)), v if v is not None else 0))
    return tuple(order)


def unique(items: Iterable[Named]) -> list[Named]:
    return list(dict.fromkeys(items))

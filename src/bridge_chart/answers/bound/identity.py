"""The identity of a quantity: everything that tells it from any other, as one value.

It is the key of kept figures, of rows and of measures, and the quantity as a question writes it
(`ask`). Labels are for people and never identify anything.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from bridge_chart.terms import question as q


@dataclass(frozen=True)
class PartId:
    """Part of a test: by its kind and name, or the questions that carry any of some tags."""

    kind: str
    name: str | None = None
    tagged: tuple[str, ...] = ()

    @property
    def ask(self) -> q.Part:
        return q.Part.model_validate(
            {"kind": self.kind, "is": self.name, "tagged": self.tagged or None}
        )


@dataclass(frozen=True)
class Working:
    """How a quantity is worked out of another: derived from it, or the share of those who reach a
    cut or meet conditions. `against`, `meets`: bound, with ids."""

    how: str
    of: QuantityId
    against: q.Yardstick | None = None
    table: q.Ref | None = None
    rule: q.Ref | None = None
    condition: q.Ref | None = None
    counting: str | None = None
    cut: str | float | None = None
    meets: tuple[q.Condition, ...] = ()


@dataclass(frozen=True)
class QuantityId:
    """Test, subject and sitting by their ids; how it is expressed; which part; worked out how."""

    assessment: int
    subject: int | None
    sitting: int
    score: str
    role: str = "result"
    kind: str = ""
    grain: str | None = None
    form: int | None = None
    attempt: str = "official"
    part: PartId | None = None
    line: str | None = None
    """Steps with the pass line drawn at this one, not where the scale draws it."""
    working: Working | None = None
    in_words: bool = False
    """A figure as the word that it means for one student: the show wants it so."""

    @property
    def ask(self) -> q.What:
        """The quantity as a question writes it, with ids."""
        return _ask(self)


@lru_cache(4096)
def _ask(quantity: QuantityId) -> q.What:
    if quantity.line is not None:
        of = replace(quantity, line=None).ask
        return q.Figure.model_validate({"measure": of, "statistic": "share", "cut": quantity.line})
    if quantity.working is not None:
        return _worked(quantity.working)
    return q.Measure.model_validate({
        "assessment": quantity.assessment, "subject": quantity.subject,
        "sitting": quantity.sitting, "role": quantity.role, "kind": quantity.kind or None,
        "score": quantity.score, "grain": quantity.grain, "form": quantity.form,
        "attempt": quantity.attempt,
        "part": None if quantity.part is None else quantity.part.ask,
    })  # fmt: skip


def _worked(working: Working) -> q.What:
    of = working.of.ask
    if working.how == "share":
        return q.Figure.model_validate({
            "measure": of, "statistic": "share", "cut": working.cut, "meets": working.meets,
        })  # fmt: skip
    given: dict[str, Any] = {
        "derive": working.how, "of": of, "against": working.against, "table": working.table,
        "rule": working.rule, "condition": working.condition, "counting": working.counting,
    }  # fmt: skip
    return q.Derived.model_validate(given)

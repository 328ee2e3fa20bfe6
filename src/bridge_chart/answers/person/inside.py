"""The way from a student's page into a test: the student beside class and year, question by
question."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.person.results import Found, Person
from bridge_chart.answers.what.taught import taught
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.words import spoken


def with_way_inside(person: Person, found: Found) -> Found:
    """A result with the question that leads into its test."""
    asked = _inside(person, found.quantity)
    return replace(found, result=found.result.model_copy(update={"inside": asked}))


def _inside(person: Person, quantity: Quantity) -> q.Question | None:
    """What to ask of the form that the student sat; None where it is not known by question."""
    snapshot, at, key = person.snapshot, person.at, quantity.key
    sat = [form for form in snapshot.marked_forms(key.sitting.id) if at in form.at]
    if len(sat) != 1 or key.role != "result":
        return None
    measure = {
        "assessment": key.assessment.id, "subject": key.subject.id if key.subject else None,
        "sitting": key.sitting.id, "form": sat[0].form,
    }  # fmt: skip
    level = int(np.nan_to_num(tested_year_level(snapshot, key)[at], nan=-1))
    year = [] if level < 0 else [{"field": "year_level", "in": [level]}]
    groups: list[dict[str, Any]] = [
        {"label": "This student", "who": _who("student", int(snapshot.student_ids[at]))}
    ]
    own = _class_of(snapshot, quantity, at)
    if own is not None:
        label, number = own
        groups.append({"label": label, "who": _who("class", number)})
    return q.Question.model_validate({
        "show": "items", "what": [measure], "who": {"all": year},
        "against": {"group": {"who": {"all": year}}}, "split": [{"populations": groups}],
    })  # fmt: skip


def _who(field: str, number: int) -> dict[str, Any]:
    return {"all": [{"field": field, "in": [number]}]}


def _class_of(snapshot: Snapshot, quantity: Quantity, at: int) -> tuple[str, int] | None:
    """The class in which the student was taught it then."""
    place = int(taught(snapshot, quantity.key).classes[at])
    if place < 0:
        return None
    found = snapshot.classes[place]
    return found.name or spoken().year_level, found.id

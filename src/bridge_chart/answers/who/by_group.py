"""Conditions on saved groups: by rule, live, or the students that it was made of."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.terms import question as q


def in_group(c: q.InSet, binding: Binding) -> Filter:
    """Students who are in a saved group. Its rule may name what its maker could, and its words
    are the group's name alone."""
    found = binding.found_set(c.set_)
    c = c.model_copy(update={"set_": found.id})
    if found.rule is not None:
        _, members = binding.inside(found).members(found.rule)
        return Filter(c, found.name, members.make, place=True)
    assert found.students is not None
    students, snapshot = found.students, binding.snapshot
    return Filter(
        c, found.name, lambda: np.isin(snapshot.student_ids, students), place=True
    )  # fmt: skip

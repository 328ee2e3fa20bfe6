"""What counts towards a condition, subject by subject: banked, and with what is estimated."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bridge_chart.answers.shows.awards.body import InSubject
from bridge_chart.answers.what.award import Judged
from bridge_chart.core.arrays import Integers
from bridge_chart.core.awards.judge import judge
from bridge_chart.core.awards.rules import Award, Credits, Need, Rule, Subjects
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms.award_rule import Condition


def by_subject(
    held: Judged, rule: Rule, condition: Condition, students: Integers
) -> list[InSubject]:
    """Of a condition on credits the mean of each student's credits in the subject; of one on
    subjects the share of students who have enough in it. Each subject by itself at its best."""
    if isinstance(rule, Credits):
        needs: tuple[Need, ...] = (rule.need,)
    elif isinstance(rule, Subjects):
        needs = rule.each
    else:
        return []
    if len(students) < FEWEST_TO_SHOW:
        return []
    out = []
    wanted = {name.casefold() for name in condition.subject}
    for code, name in enumerate(held.kept.names["subject"]):
        if wanted and name.casefold() not in wanted:
            continue
        rows = np.flatnonzero(held.records.subject == code)
        records = held.records.of(rows)
        own = [replace(need, match=replace(need.match, subjects=(code,))) for need in needs]
        count = int(held.records.student.max(initial=0)) + 1
        most = max(count, int(students.max()) + 1)
        found = judge(Award(Credits(own[0]), held.award.once), records, most)
        if not found.with_estimates[students].any():
            continue
        if isinstance(rule, Credits):
            sure, hoped = (
                float(part[students].mean() / records.parts)
                for part in (found.banked, found.with_estimates)
            )
        else:
            enough = judge(Award(Subjects(1, tuple(own)), held.award.once), records, most)
            sure, hoped = (
                float((part[students] >= 1).mean())
                for part in (enough.banked, enough.with_estimates)
            )
        out.append(
            InSubject(
                subject=name, n=int(np.count_nonzero(found.with_estimates[students])),
                banked=sure, with_estimates=hoped,
            )
        )  # fmt: skip
    return sorted(out, key=lambda one: -one.with_estimates)

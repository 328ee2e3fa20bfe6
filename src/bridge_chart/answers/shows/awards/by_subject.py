"""What counts towards a condition, subject by subject: banked, and with what is estimated."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bridge_chart.answers.shows.awards.body import InSubject, Reached
from bridge_chart.answers.what.award import Judged
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.awards.judge import judge
from bridge_chart.core.awards.rules import Award, Credits, Need, Rule, Subjects
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.describing.shares import wilson
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
        having = int(np.count_nonzero(found.with_estimates[students]))
        if not having:
            continue
        if isinstance(rule, Subjects):
            found = judge(Award(Subjects(1, tuple(own)), held.award.once), records, most)
        sure, hoped = (
            _whole(part[students] / (records.parts if isinstance(rule, Credits) else 1), rule)
            for part in (found.banked, found.with_estimates)
        )
        out.append(InSubject(
            subject=name, n=len(students), having=having, banked=sure, with_estimates=hoped,
        ))  # fmt: skip
    return out


def _whole(each: Floats, rule: Credits | Subjects) -> Reached:
    """Credits of each student as their mean; whether each has enough as their share."""
    if isinstance(rule, Credits):
        found = moments(each, np.zeros(len(each), np.int64), 1)
        value, low, high = float(found.mean[0]), float(found.low[0]), float(found.high[0])
    else:
        enough = np.asarray(np.count_nonzero(each >= 1))
        value, low, high = (float(one) for one in wilson(enough, np.asarray(len(each))))
    return Reached(value=value, low=low, high=high)

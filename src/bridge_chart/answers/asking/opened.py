"""What a mark opens: its small change, applied to the question as it was asked.

This is the only place where the list of a mark is made: for the drawer, for *Narrow to these*, for
a group, for an export, for the command line.
"""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.what.measures import changed, innermost, part_of
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion

LACKING: tuple[q.Reason, ...] = ("no_prior", "no_yardstick")


def listing(question: q.Question) -> q.Question:
    """The question that lists a mark's students; one without `open` is given back as it is."""
    if question.open is None:
        return question
    opened = question.open
    mine = _stands_for(question, opened.what)
    return q.Question(
        who=_who(question, mine),
        what=(mine, *_others(question)),
        against=question.against,
        basis=question.basis,
        cohort=question.cohort,
        show="students",
        columns=opened.columns,
        sort=opened.sort,
        page=opened.page,
        plan=question.plan,
        version=question.version,
    )


def narrowed(question: q.Question) -> q.Question | None:
    """The question itself, asked of a mark's students alone; None where there is no mark, or one
    that stands for everybody."""
    opened = question.open
    if opened is None or not (opened.add or opened.level or opened.students):
        return None
    mine = _stands_for(question, opened.what)
    to: dict[str, Any] = {
        "open": None,
        "who": _who(question, mine),
        "what": (_stands_for(question, opened.what, keep_score=True),),
        "split": tuple(d for d in question.split if not isinstance(d, str)),
        "page": None,
    }
    if question.show == "make_up":
        # Everybody is in the set then, so there is nobody to hold it against.
        to |= {"show": "spans", "focus": None}
    return question.model_copy(update=to)


def _stands_for(question: q.Question, stands: q.Stands, *, keep_score: bool = False) -> q.What:
    if stands.at >= len(question.what):
        raise InvalidQuestion(
            f"The mark stands for measure {stands.at + 1}, and the question has "
            f"{len(question.what)}.",
            next_step="Open the mark again from a new answer.",
        )
    what = question.what[stands.at]
    to: dict[str, object] = {}
    if stands.subject is not None:
        to["subject"] = stands.subject
    if stands.sitting is not None:
        to["sitting"] = stands.sitting
    if isinstance(stands.part, q.Part):
        to |= {"part": stands.part, "score": "raw"}
    elif stands.part is not None:
        part = part_of(innermost(what))
        assert part is not None
        to["part"] = part.model_copy(update={"is_": stands.part})
    if stands.score is not None and not keep_score:
        to["score"] = stands.score
    return changed(what, **to)


def _others(question: q.Question) -> tuple[q.What, ...]:
    """The other measures of a matched cohort: they say who is counted in all of them."""
    if question.cohort != "matched":
        return ()
    if question.show == "over_time" and len(question.what) == 1:
        return (changed(question.what[0], sitting="each"),)
    return question.what


def _who(question: q.Question, mine: q.What) -> q.Who:
    opened = question.open
    assert opened is not None
    added = [*question.who.all_, *opened.add]
    if opened.level:
        measure = mine.measure if isinstance(mine, q.Figure) else mine
        added.append(q.MeasureIs.model_validate({"measure": measure, "level": opened.level}))
        if question.against is not None and not isinstance(question.against, q.AgainstGroup):
            # A count of a level is of those counted; one who has the level may lack the yardstick.
            lacking = [
                q.Missing(missing=reason, measure=measure, against=question.against)
                for reason in LACKING
            ]
            added.append(q.Not(not_=q.AnyOf(any_=tuple(lacking))))
    if opened.students:
        added.append(q.FieldIs.model_validate({"field": "student", "in": list(opened.students)}))
    return question.who.model_copy(update={"all_": tuple(added)})

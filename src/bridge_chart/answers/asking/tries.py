"""Results that are tried, bound: whose they are, and what they would be."""

from __future__ import annotations

from bridge_chart.answers.asking.binder import Binder
from bridge_chart.answers.what.tried import edits_of
from bridge_chart.store.codes import STEPPED
from bridge_chart.store.snapshot import Edits
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound


def bound_trial(trial: q.Trial, binder: Binder) -> tuple[q.Trial, Edits]:
    """With ids, each student once, nobody past the top or below the bottom. NotFound for a student
    whom the asker does not see, as for one whom there is not."""
    of = binder.quantity(trial.of, steps=True)
    if of.key.score not in STEPPED or of.id.grain == "half" or of.form is not None:
        raise InvalidQuestion(
            f"{of.label} cannot be tried step by step.",
            next_step="Try whole levels or grades of a test.",
        )
    steps = {move.student: move.by for move in trial.moves}
    if len(steps) < len(trial.moves):
        raise InvalidQuestion("A try moves each student once.")
    edits = edits_of(binder.snapshot, of, steps)
    if len(edits.students) < len(steps):
        raise NotFound(
            f"{len(steps) - len(edits.students)} of the students who are to be moved have no "
            f"result in {of.label}.",
            next_step="Leave them out of the try.",
        )
    asked = of.measure
    assert isinstance(asked, q.Measure)
    moves = tuple(q.Move(student=one, by=steps[one]) for one in edits.students)
    return q.Trial(of=asked, moves=moves), edits

"""The bound question: every name found, every key counted or refused; nothing after it looks up
a name."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from bridge_chart.access.releases import Published
from bridge_chart.answers.against.kinds import finds_its_own
from bridge_chart.answers.asking.binder import NO_SETS, Binder, Sets
from bridge_chart.answers.asking.columns import bind_columns
from bridge_chart.answers.asking.tries import bound_trial
from bridge_chart.answers.asking.wider import Outlook
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import Bound, View
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.answers.shows.show import Show
from bridge_chart.answers.splits.kinds import bind_split
from bridge_chart.answers.what.derived import counts_steps
from bridge_chart.answers.what.measures import changed, innermost, stands_for
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import day

Found = tuple[Quantity, q.Stands]


def bind(
    question: q.Question,
    snapshot: Snapshot,
    sets: Sets = NO_SETS,
    published: Published | None = None,
    noted: Mapping[int, str] | None = None,
) -> Bound:
    """The question with everything found; errors as in `terms.errors`. published: what a snapshot
    that is not the whole district may be held against. noted: what may be read about students."""
    _refuse_not_yet(question)
    show = SHOWS[question.show]
    show.refuse_keys(question)
    outlook = None if published is None else Outlook(bind, published)
    loose = Binder(snapshot, sets, outlook)
    if question.plan is not None:
        trial, edits = bound_trial(question.plan, loose)
        question = question.model_copy(update={"plan": trial})
        loose = Binder(snapshot.tried(edits), sets, outlook)
    asked = _quantities(loose, question, show, question.what)
    show.refuse_measures(question, [quantity for quantity, _ in asked])
    found = asked
    if show.every_sitting and len(asked) == 1:
        each = (changed(question.what[0], sitting="each"),)
        found = _quantities(loose, question, show, each)
        found.sort(key=lambda pair: pair[0].key.date)
    views = _views(loose, question, show, found)
    if noted:
        views = [replace(view, noted=noted) for view in views]
    return Bound(_with_ids(question, loose, asked, views), tuple(views))


def _refuse_not_yet(question: q.Question) -> None:
    """Refuse, by name, every key that no show answers yet."""
    parts: dict[str, bool] = {
        f"show “{question.show}”": question.show not in SHOWS,
        "“layout”": question.layout is not None,
        "another basis than the district": question.basis != "district",
        f"unit “{question.unit}”": question.unit != "own",
    }
    refused = next((what for what, found in parts.items() if found), None)
    if refused:
        raise not_yet(refused)


def _quantities(
    binder: Binder, question: q.Question, show: Show, whats: Sequence[q.What]
) -> list[Found]:
    """The question's quantities, each once, with what marks say of them."""
    found: dict[object, Found] = {}
    for at, what in enumerate(whats):
        steps = show.counts_steps(what)
        for quantity in binder.measures.quantities(what, steps=steps):
            each = show.every_sitting or innermost(what).sitting == "each"
            stands = stands_for(what, at, quantity, every_sitting=each)
            if show.steps:
                stands = stands.model_copy(update={"score": quantity.key.score})
            found.setdefault(quantity.id, (quantity, stands))
    return list(found.values())


def _views(binder: Binder, question: q.Question, show: Show, found: Sequence[Found]) -> list[View]:
    views: list[View] = []
    trouble: NotFound | InvalidQuestion | None = None
    for quantity, stands in found:
        try:
            views.append(_view(binder, question, len(views), quantity, stands))
        except (NotFound, InvalidQuestion) as error:
            # Over time a sitting without the yardstick is no point: the first has none before it.
            if not show.every_sitting or len(found) == 1 or question.against is None:
                raise
            trouble = error
    if not views and trouble is not None:
        raise trouble
    return views


def _view(
    loose: Binder, question: q.Question, at: int, quantity: Quantity, stands: q.Stands
) -> View:
    """Everything that an answer is worked out of, for one quantity."""
    as_of = question.who.as_of or "sitting"
    binder = loose.for_view(quantity, as_of, question.against)
    return View(
        snapshot=binder.snapshot,
        question=question,
        at=at,
        quantity=quantity,
        stands=stands,
        yardstick=binder.against,
        roll=binder.roll(None),
        as_of=binder.date(None),
        as_of_text=_as_of_text(binder, as_of),
        who=tuple(binder.condition(c) for c in question.who.all_),
        split=tuple(bind_split(d, binder) for d in question.split if not isinstance(d, str)),
        focus=None if question.focus is None else tuple(map(binder.condition, question.focus)),
        start=binder.start,
        split_by=lambda d: bind_split(d, binder),
        measured=lambda m: binder.quantity(m, steps=counts_steps(m)),
        columns=bind_columns(question, binder),
        wider=binder.wider(question, quantity),
        elsewhere=lambda other: _elsewhere(loose.of(other), binder, question, quantity, stands),
    )


def _elsewhere(
    loose: Binder, here: Binder, question: q.Question, quantity: Quantity, stands: q.Stands
) -> View:
    """One quantity of a question on another snapshot, by the ids that it was bound to."""
    who = question.who.model_copy(
        update={"all_": tuple(here.condition(c).asked for c in question.who.all_)}
    )
    split = tuple(bind_split(d, here).asked for d in question.split if not isinstance(d, str))
    against = None if here.against is None else here.against.asked
    changed_to = {"who": who, "split": split, "against": against, "focus": None}
    found = loose.measures.quantities(quantity.ask, steps=bool(quantity.steps))[0]
    return _view(loose, question.model_copy(update=changed_to), 0, found, stands)


def _as_of_text(binder: Binder, as_of: q.AsOf) -> str:
    if as_of == "sitting":
        return "as of the sitting"
    date = binder.date(as_of)
    return f"as of today ({day(date)})" if as_of == "today" else f"as of {day(date)}"


def _with_ids(
    question: q.Question, binder: Binder, asked: Sequence[Found], views: list[View]
) -> q.Question:
    """The question as it is kept by. What several quantities each find for themselves stays as it
    was asked."""
    first = views[0]
    several = len(asked) > 1 or SHOWS[question.show].every_sitting
    against = question.against
    if first.yardstick is not None and against is not None:
        its_own = several and finds_its_own(against)
        against = against if its_own else first.yardstick.asked
    named = iter(first.split)
    what = tuple(quantity.ask for quantity, _ in asked)
    if SHOWS[question.show].every_sitting:
        # Each sitting has a form of that name of its own.
        forms = [innermost(question.what[stands.at]).form for _, stands in asked]
        what = tuple(changed(one, form=form) for one, form in zip(what, forms, strict=True))
    changed_to: dict[str, Any] = {
        "what": what,
        "columns": tuple(column.asked for column in first.columns),
        "who": q.Who(
            as_of=question.who.as_of or "sitting", all_=tuple(one.asked for one in first.who)
        ),
        "split": tuple(d if isinstance(d, str) else next(named).asked for d in question.split),
        "against": against,
        "focus": None if first.focus is None else tuple(one.asked for one in first.focus),
    }
    bound = question.model_copy(update=changed_to)
    views[:] = [replace(view, question=bound) for view in views]
    return bound

"""Warnings: what makes this comparison unsound, and what to ask instead."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.figures.pinned import wider_than
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.splits.by_figure import ByBand, ByLevel
from bridge_chart.answers.what.parts import questions_in
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.core.arrays import Mask
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Coverage, Row, Warn
from bridge_chart.terms.errors import NotPublished
from bridge_chart.terms.wording import amount, count, listed, number, plain
from bridge_chart.terms.words import spoken

LOW_COVERAGE = 0.90
UNLIKE_BY_SD = 0.1
FLOOR_OR_CEILING = 0.10
FEW_QUESTIONS = 5
"""A part of a test with fewer carries a caution."""


def warnings_of(
    parts: Sequence[Slice],
    covered: Sequence[Coverage],
    rows: Sequence[Row],
    *,
    district: bool = False,
) -> list[Warn]:
    """Every warning that the numbers call for, each once. district: its row stands above them."""
    found: list[Warn | None] = []
    for part, one in zip(parts, covered, strict=False):
        view, out, people = part.view, part.out, part.people & part.view.meant
        found += [
            _low_coverage(one),
            _nobody_on_roll(view),
            _unlike(view, out, people),
            _piled_up(out, people),
            _set_aside(view, one),
            _levels_mixed(view, out, people),
            _forms_mixed(view, out, people),
            _back_to_the_middle(view),
            _on_one_day(view),
        ]
    found += [_overlap(rows), _split_after(parts[0]), _rows_low(rows, covered)]
    found.append(_small_areas(parts))
    found += map(_not_published, parts) if district else []
    unique = {(w.code, w.text): w for w in found if w}
    return list(unique.values())


def _not_published(part: Slice) -> Warn | None:
    """Why the district's row is not there, or whom it leaves out."""
    wants = "district" in part.view.question.reference
    if part.view.wider is None or not wants or part.out.group is not None:
        return None
    try:
        left_out = wider_than(part).left_out
    except NotPublished as error:
        text = f"{error.message} {error.next_step}"
        return Warn(code="not_published", text=text, instead=error.details.get("instead"))
    if not left_out:
        return None
    levels = listed([spoken().level_name(n) for n in left_out], 6)
    text = f"The district's row is without {levels}: too few students of other schools have this."
    return Warn(code="published_in_part", text=text)


def _small_areas(parts: Sequence[Slice]) -> Warn | None:
    """Parts of a test with so few questions that one of them moves a share or a rank far."""
    small: dict[str, int] = {}
    for one in parts:
        quantity = one.view.quantity.plain
        part = quantity.part
        if part is not None and part.kind != "question" and part.name:
            n = questions_in(one.view.snapshot, quantity.key, part)
            if 0 < n < FEW_QUESTIONS:
                small[part.name] = n
    if not small:
        return None
    told = listed([f"{name} ({count(n, 'question')})" for name, n in small.items()], 6)
    text = f"Fewer than {FEW_QUESTIONS} questions are a hint at most: {told}."
    return Warn(code="few_questions", text=text)


def _low_coverage(covered: Coverage) -> Warn | None:
    if covered.population == 0 or covered.counted >= LOW_COVERAGE * covered.population:
        return None
    share = 100 * covered.counted / covered.population
    of_all = f"{amount(covered.counted)} of {amount(covered.population)}"
    text = f"Only {of_all} are counted ({share:.0f}%); those who are missing may differ."
    return Warn(code="low_coverage", text=text)


def _rows_low(rows: Sequence[Row], covered: Sequence[Coverage]) -> Warn | None:
    """Rows of which fewer are counted, where of all together enough are."""
    if any(_low_coverage(one) for one in covered):
        return None
    low = [
        row for row in rows
        if row.n >= FEWEST_TO_SHOW and row.n < LOW_COVERAGE * (row.n + row.missing)
    ]  # fmt: skip
    if not low:
        return None
    names = listed([f"{r.label} ({r.n} of {r.n + r.missing})" for r in low], 4)
    text = f"Of {names} fewer than 90% are counted; those who are missing may differ."
    return Warn(code="low_coverage", text=text)


def _nobody_on_roll(view: View) -> Warn | None:
    """Schools whose students have results and of which nobody was on roll at that date."""
    snapshot, roll, key = view.snapshot, view.roll, view.measure
    now = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if now is None or now.key == roll.key:
        return None
    schools = len(snapshot.schools)
    there = np.bincount(np.asarray(roll.school) + 1, minlength=schools + 1)[1:]
    lost = ~np.isnan(snapshot.values(key)) & ~np.asarray(roll.somewhere)
    missed = np.bincount(np.asarray(now.school)[lost] + 1, minlength=schools + 1)[1:]
    none = np.flatnonzero((there == 0) & (missed > 0))
    if not len(none):
        return None
    names = listed([snapshot.schools[n].name for n in none], 6)
    text = (
        f"Nobody of {names} was on roll at that date, so "
        f"{count(int(missed[none].sum()), 'result')} of {key.label} "
        f"{'is' if missed[none].sum() == 1 else 'are'} not counted: a roster of then is missing."
    )
    return Warn(code="nobody_on_roll", text=text)


def _on_one_day(view: View) -> Warn | None:
    """A start that the asker named and that is kept as of the same day as what came of it."""
    if view.yardstick is None:
        return None
    same = [p.label for p in view.yardstick.priors if p.key.date == view.measure.date]
    if not same:
        return None
    text = (
        f"{' and '.join(same)} {'is' if len(same) == 1 else 'are'} kept as of the same day as "
        f"{view.measure.label}; it is taken as the earlier one because you name it. The right date "
        "can be said at Setup, under Names."
    )
    return Warn(code="on_one_day", text=text)


def _unlike(view: View, out: Outcome, people: Mask) -> Warn | None:
    """Whether those not counted started higher or lower than those counted."""
    if out.held is None or out.held.fit is None:
        return None
    prior = out.held.fit.prior
    both = people & ~np.isnan(prior)
    counted, missing = prior[both & (out.reasons == 0)], prior[both & (out.reasons != 0)]
    if len(counted) < 2 or len(missing) < 10:
        return None
    apart = (missing.mean() - counted.mean()) / counted.std(ddof=1)
    noise = 2 * np.sqrt(1 / len(missing) + 1 / len(counted))
    if not abs(apart) > max(UNLIKE_BY_SD, noise):
        return None
    way = "lower" if apart < 0 else "higher"
    text = (
        f"The {count(len(missing), 'student')} with a starting score but no result started "
        f"{number(abs(apart))} standard deviations {way} than those counted."
    )
    return Warn(code="missing_differ", text=text)


def _piled_up(out: Outcome, people: Mask) -> Warn | None:
    """Many students at the lowest or highest score: the test could not tell them apart."""
    values = out.values[people & ~np.isnan(out.values)]
    if len(values) < 50 or len(np.unique(values[:2000])) < 8:
        return None
    for end, word in ((values.min(), "lowest"), (values.max(), "highest")):
        share = float(np.mean(values == end))
        if share > FLOOR_OR_CEILING:
            text = f"{100 * share:.0f}% of the students have the {word} score ({plain(end)})."
            return Warn(code="floor" if word == "lowest" else "ceiling", text=text)
    return None


def _overlap(rows: Sequence[Row]) -> Warn | None:
    if not any(row.overlap for row in rows):
        return None
    text = "Some students stand in several rows, so the rows may not be added up."
    return Warn(code="overlap", text=text)


def _set_aside(view: View, covered: Coverage) -> Warn | None:
    if not covered.set_aside:
        return None
    verb = "is" if covered.set_aside == 1 else "are"
    rows = count(covered.set_aside, "row")
    text = f"{rows} of {view.measure.label} {verb} set aside at intake and in no figure."
    return Warn(code="set_aside", text=text)


def _forms_mixed(view: View, out: Outcome, people: Mask) -> Warn | None:
    """Raw marks of two forms are not the same marks."""
    raw = view.quantity.score in ("raw", "percent")
    if not raw or view.quantity.form is not None or len(view.measure.forms) < 2:
        return None
    if view.yardstick is not None and view.yardstick.kind == "nation":
        return None  # each student is held against the own form
    forms = np.asarray(view.snapshot.form(view.measure))[people & (out.reasons == 0)]
    if len(np.unique(forms[forms > 0])) < 2:
        return None
    names = " and ".join(f.name for f in view.measure.forms)
    text = (
        f"Forms {names} are mixed, and a mark on one is not a mark on the other. Use the scaled "
        "score, one form, or the nation's table of each form."
    )
    return Warn(code="forms_mixed", text=text, instead={"against": {"nation": {}}})


def _split_after(part: Slice) -> Warn | None:
    """A group that was put together by the result itself says nothing about the result."""
    for split in part.view.split:
        if not isinstance(split, ByLevel):
            continue
        own = split.of
        if own.key.date >= part.view.measure.date:
            text = (
                f"The groups are levels of {own.label}, which is no earlier than the result: "
                "they differ because they were chosen so. Split by where they started instead."
            )
            return Warn(code="split_after", text=text, instead={"split": [{"band": "prior"}]})
    return None


def _back_to_the_middle(view: View) -> Warn | None:
    """Groups chosen by an earlier score move towards the middle by chance alone."""
    yardstick = view.yardstick
    if yardstick is None or not yardstick.moves:
        return None
    by_score = any(isinstance(s, ByBand | ByLevel) for s in view.split)
    chosen = any(_by_a_score(one.asked) for one in view.who)
    if not (by_score or chosen):
        return None
    text = (
        "These groups were chosen by a score, so they move towards the middle by chance alone "
        "(regression to the mean): who scored low by bad luck rises, whatever is done. Against "
        "where they started that is allowed for."
    )
    return Warn(code="regression_to_the_mean", text=text, instead={"against": {"prior": {}}})


def _by_a_score(c: q.Condition) -> bool:
    if isinstance(c, q.AnyOf | q.AllOf):
        return any(_by_a_score(one) for one in (c.any_ if isinstance(c, q.AnyOf) else c.all_))
    if isinstance(c, q.Not):
        return _by_a_score(c.not_)
    return isinstance(c, q.MeasureIs | q.BandIs)


def _levels_mixed(view: View, out: Outcome, people: Mask) -> Warn | None:
    """Means over several year levels without a yardstick compare ages, not schools."""
    if out.held is not None or view.quantity.score not in ("scaled", "raw", "points"):
        return None
    counted = people & (out.reasons == 0)
    tested = np.asarray(tested_year_level(view.snapshot, view.measure))[counted].astype(np.intp) + 1
    levels = np.flatnonzero(np.bincount(tested, minlength=1))
    if len(levels) < 2:
        return None
    text = (
        f"{len(levels)} {spoken().year_levels} are mixed; groups with older students look better "
        "for that alone."
    )
    return Warn(code="year_levels_mixed", text=text, instead={"against": {"prior": {}}})

"""How did they answer, question by question, and how far from the rest?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from bridge_chart.answers.figures.sat import Sat, sat_by
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.items.body import (
    Exact,
    Item,
    ItemBeside,
    ItemGroup,
    ItemOptions,
    ItemsBody,
)
from bridge_chart.answers.shows.items.district import THE_REST, beside_district
from bridge_chart.answers.shows.items.looked import looked_at
from bridge_chart.answers.shows.items.paired import with_paired
from bridge_chart.answers.shows.items.quality import quality
from bridge_chart.answers.shows.items.rows import Rows, kinds_of, rows_of
from bridge_chart.answers.shows.items.shares import shares_of, told
from bridge_chart.answers.shows.items.uneven import uneven_papers
from bridge_chart.answers.shows.items.words import method_of, readings_of
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.parts import one_of_kinds
from bridge_chart.answers.what.sheets import Sheet
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.core.arrays import Mask
from bridge_chart.core.distributions import t_quantile
from bridge_chart.core.items.beside import Beside, beside_rest
from bridge_chart.core.items.reliability import cronbach_alpha
from bridge_chart.core.trust.discoveries import discoveries
from bridge_chart.terms.answer import Verdict
from bridge_chart.terms.errors import InvalidQuestion, TooWide
from bridge_chart.terms.wording import amount

FEWEST = 10
"""Students on either side of a difference that is judged."""
MOST_CELLS = 25_000


def items_shown(parts: Sequence[Slice]) -> Shown:
    """One test; the split's groups beside each other and beside their rest."""
    part = parts[0]
    view = part.view
    options = ItemOptions.model_validate(view.question.options)
    sat = sat_by(part)
    groups = _groups(part, sat)
    by = one_of_kinds(options.by, kinds_of(sat.sheet))
    rows = rows_of(sat.sheet, by, options.only)
    if len(rows.names) * len(groups) > MOST_CELLS:
        raise TooWide(
            f"{amount(len(rows.names))} rows by {amount(len(groups))} groups are too many to show.",
            next_step="Split by something of fewer groups, or narrow it.",
        )
    if not rows.names:
        raise InvalidQuestion(
            f"No question of this test says its {options.by}."
            if options.only is None
            else f"No question of this test is about “{options.only}”.",
            next_step="Bring in its question table, or look at it question by question.",
        )
    found, against = _held_against(part, sat, rows)
    body = ItemsBody(
        show="items", form=_form(part, sat), by=by, kinds=list(kinds_of(sat.sheet)),
        order=options.order, only=options.only,
        dimension=part.grouping.label,
        against=against,
        groups=groups, rows=_items(part, sat, rows, found), exact=_exact(sat),
        least=None if found is None else _least(found, len(rows.names)),
        looked=None if options.look is None else looked_at(part, sat, rows, options.look),
        unmarked=list(sat.sheet.unmarked), uneven=uneven_papers(part, sat, rows),
    )  # fmt: skip
    if options.order == "difference":
        body.rows.sort(key=_by_difference)
    body = with_paired(part, body)
    return Shown(
        body=body,
        against=against,
        coverage=[coverage(view, part.people, part.out.reasons)],
        readings=readings_of(body, _strands_beside(part, sat, options)),
        method=method_of(body),
    )


def _form(part: Slice, sat: Sat) -> str:
    forms = part.view.quantity.key.forms
    return next((form.name for form in forms if form.id == sat.sheet.form), "")


def _groups(part: Slice, sat: Sat) -> list[ItemGroup]:
    sizes = np.bincount(part.grouping.code, minlength=len(part.grouping.groups))
    return [
        ItemGroup(
            key=group.name, label=group.label, n=int(n), missing=int(size - n),
            opens=opens(part.view, group),
        )
        for group, n, size in zip(part.grouping.groups, sat.members.sum(axis=1), sizes, strict=True)
    ]  # fmt: skip


def _held_against(
    part: Slice, sat: Sat, rows: Rows
) -> tuple[tuple[Beside, Mask] | None, str | None]:
    """Each group beside its rest, and who that is: the yardstick; without one, for whoever sees a
    part of the district, the rest of it."""
    if sat.others is not None:
        assert part.view.yardstick is not None
        found = beside_rest(rows.share, sat.members, sat.others, sat.classes)
        return _told_apart(found), part.view.yardstick.words
    options = ItemOptions.model_validate(part.view.question.options)
    rest = beside_district(part, sat, rows, options.only)
    return (None, None) if rest is None else (_told_apart(rest), THE_REST)


def _told_apart(found: Beside) -> tuple[Beside, Mask]:
    """Which differences stand: one family for the answer."""
    p = np.where((found.n >= FEWEST) & (found.rest_n >= FEWEST), found.p, np.nan)
    return found, discoveries(p.ravel()).reshape(p.shape)


def _least(found: tuple[Beside, Mask], rows: int) -> float | None:
    """How far the first group must be on a question in the middle, where none is further."""
    beside, _ = found
    reach = (beside.high - beside.low)[0] / 2
    reach = reach[np.isfinite(reach)]
    if not len(reach):
        return None
    wider = float(t_quantile(1 - 0.025 / rows, np.array(1e6)) / t_quantile(0.975, np.array(1e6)))
    return float(np.median(reach)) * wider


def _items(
    part: Slice, sat: Sat, rows: Rows, found: tuple[Beside, Mask] | None, *, first: bool = False
) -> list[Item]:
    """A row each; of the first group alone, and without how good it is, where only its reading is
    wanted."""
    groups = range(1 if first else len(sat.members))
    shares = shares_of(part, sat, rows, groups)
    told_of = [{}] * len(rows.names) if first else quality(sat, rows)
    return [
        Item(
            key=f"{rows.by}:{rows.names[n]}", label=rows.names[n],
            title=_title(sat.sheet, rows, n), place=int(rows.members[n][0]) + 1,
            questions=len(rows.members[n]),
            maximum=float(rows.marks.maxima[n]), about=_about(sat.sheet, rows, n),
            shares=[shares[group][n] for group in groups],
            beside=[] if found is None else [_apart(found, group, n) for group in groups],
            **told_of[n],
        )
        for n in range(len(rows.names))
    ]  # fmt: skip


def _about(sheet: Sheet, rows: Rows, n: int) -> dict[str, str]:
    """The tags of a question; of a strand its name says it."""
    info = sheet.infos[int(rows.members[n][0])]
    return dict(info.tags) if info and rows.by == "question" else {}


def _title(sheet: Sheet, rows: Rows, n: int) -> str:
    info = sheet.infos[int(rows.members[n][0])]
    return info.title if info and rows.by == "question" else ""


def _apart(found: tuple[Beside, Mask], group: int, n: int) -> ItemBeside:
    beside, stands = found
    at = group, n
    span, share_n, rest_n = beside.span[at], int(beside.n[at]), int(beside.rest_n[at])
    verdict: Verdict = "unclear"
    if min(share_n, rest_n) < FEWEST or np.isnan(beside.p[at]):
        verdict = "few"
    elif stands[at]:
        verdict = "ahead" if span > 0 else "behind"
    return ItemBeside(
        rest=told(beside.rest[at]), rest_n=rest_n, span=told(span),
        low=told(beside.low[at]), high=told(beside.high[at]), p=told(beside.p[at]),
        verdict=verdict,
    )  # fmt: skip


def _exact(sat: Sat) -> Exact:
    sheet = sat.sheet.marks
    found = cronbach_alpha(
        replace(sheet, marks=sheet.marks[sat.everyone]), optional_questions=sat.sheet.by_choice
    )
    return Exact(
        questions=found.questions, n=found.n, missing=found.missing, alpha=told(found.alpha),
        low=told(found.low), high=told(found.high), error=told(found.sem), reason=found.reason,
    )  # fmt: skip


def _strands_beside(part: Slice, sat: Sat, options: ItemOptions) -> list[Item]:
    """The strands of a test whose questions are looked at: they say more than one question."""
    if options.by != "question" or options.only:
        return []
    rows = rows_of(sat.sheet, "strand")
    found, _ = _held_against(part, sat, rows) if rows.names else (None, None)
    return [] if found is None else _items(part, sat, rows, found, first=True)


def _by_difference(item: Item) -> tuple[bool, float, int]:
    """Furthest behind first; who has no difference by share, then as the paper has them."""
    first = item.beside[0].span if item.beside else item.shares[0].share if item.shares else None
    return first is None, first or 0.0, item.place

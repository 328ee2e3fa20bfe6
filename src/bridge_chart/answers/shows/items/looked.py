"""A row of a test more closely: its options by group and by thirds of the test, what was written,
and how the same question was answered elsewhere."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.bound.quantity import of_part, plain
from bridge_chart.answers.figures.sat import Sat
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.items.looked_body import (
    Elsewhere,
    Looked,
    OptionRow,
    OptionShare,
    ThirdShare,
    WrittenBy,
    WrittenText,
)
from bridge_chart.answers.shows.items.quality import doubts, totals_of
from bridge_chart.answers.shows.items.rows import Rows
from bridge_chart.answers.shows.items.shares import told
from bridge_chart.answers.what.sheets import NONE, Sheet, sheet_of
from bridge_chart.answers.what.texts import folded
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.items.questions import facility
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.store.snapshot import MeasureKey
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion

MOST_TEXTS = 12
FEWEST_ALIKE = 3
"""So many wrote a text before it is shown where it may hold a name that is not to be read."""


def looked_at(part: Slice, sat: Sat, rows: Rows, wanted: str) -> Looked:
    """The row by its name; InvalidQuestion where the test has none of that name."""
    names = [same(name) for name in rows.names]
    if same(wanted) not in names:
        raise InvalidQuestion(
            f"This test has no {rows.by} “{wanted}”.",
            next_step=f"It has {', '.join(rows.names[:8])}.",
        )
    row = names.index(same(wanted))
    members = rows.members[row]
    out = Looked(label=rows.names[row], maximum=float(rows.marks.maxima[row]))
    if rows.by != "question":
        return out.model_copy(update={"questions": [sat.sheet.questions[n] for n in members]})
    at = int(members[0])
    info = sat.sheet.infos[at] or QuestionInfo(sat.sheet.questions[at])
    doubt = next((one for one in doubts(sat) if one.question == at), None)
    update: dict[str, object] = {
        "title": info.title, "about": dict(info.tags), "page": info.page,
        "written": _written(part, sat, at), "elsewhere": _elsewhere(part, sat.sheet, info),
    }  # fmt: skip
    if sat.sheet.choices is not None and (sat.sheet.choices[:, at] >= 0).any():
        options, thirds = _options(part, sat, at, info)
        update |= {"key": info.key, "options": options, "thirds": thirds}
    if doubt is not None:
        update |= {"doubt": doubt.words, "instead": doubt.instead}
    return out.model_copy(update=update)


def _options(
    part: Slice, sat: Sat, at: int, info: QuestionInfo
) -> tuple[list[OptionRow], list[int]]:
    """Each option that the table names or somebody chose, in their order."""
    sheet = sat.sheet
    assert sheet.choices is not None
    chosen = sheet.choices[:, at]
    used = {name for n, name in enumerate(sheet.options) if (chosen == n).any()}
    listed = {same(name): name for name in [*info.options, *sorted(used, key=str.casefold)]}
    third, sizes = _thirds(sat)
    place = {same(name): n for n, name in enumerate(sheet.options)}
    rows = []
    for name in [*listed.values(), NONE]:
        picked = chosen == (-1 if name == NONE else place.get(same(name), -2))
        if name == NONE and not picked[sat.everyone].any():
            continue
        rows.append(
            OptionRow(
                option=name, says=_says(info, name), right=name != NONE and info.right(name),
                shares=[_share(part, sat, at, group, picked, name)
                        for group in range(len(sat.members))],
                thirds=[_third(int((picked & (third == n)).sum()), size)
                        for n, size in enumerate(sizes)],
            )
        )  # fmt: skip
    return rows, sizes


def _says(info: QuestionInfo, option: str) -> str:
    return next((says for name, says in info.options.items() if same(name) == same(option)), "")


def _share(
    part: Slice, sat: Sat, at: int, group: int, picked: np.ndarray, name: str
) -> OptionShare:
    mine = sat.members[group]
    size, n = int(mine.sum()), int((picked & mine).sum())
    mark = None
    if name != NONE:
        view = part.view
        asked = of_part(
            view.quantity, PartId("question", sat.sheet.questions[at]), "raw"
        ).measure  # fmt: skip
        chose = q.MeasureIs(measure=asked, option=name)
        mark = opens(view, part.grouping.groups[group])
        what = view.stands.model_copy(update={"part": _question(sat.sheet, at)})
        mark = mark.model_copy(update={"add": (*mark.add, chose), "what": what})
    share, low, high = share_of(n, size)
    return OptionShare(n=n, missing=0, share=share, low=low, high=high, opens=mark)


def _third(n: int, size: int) -> ThirdShare:
    share, low, high = share_of(n, size)
    return ThirdShare(share=share, low=low, high=high)


def share_of(n: int, size: int) -> tuple[float | None, float | None, float | None]:
    """A share with its interval; none of nobody."""
    share, low, high = wilson(np.array([n]), np.array([size]))
    return told(share[0]), told(low[0]), told(high[0])


def _question(sheet: Sheet, at: int) -> q.Part:
    return q.Part.model_validate({"kind": "question", "is": sheet.questions[at]})


def _thirds(sat: Sat) -> tuple[np.ndarray, list[int]]:
    """(sat,) which third by the total of those looked at, −1 = no total; and how many each has."""
    totals = totals_of(sat)
    held = ~np.isnan(totals)
    cuts = np.quantile(totals[held], (1 / 3, 2 / 3)) if held.any() else np.zeros(2)
    third = np.where(held, np.searchsorted(cuts, np.nan_to_num(totals), side="left"), -1)
    return third, [int((third == n).sum()) for n in range(3)]


def _written(part: Slice, sat: Sat, at: int) -> list[WrittenBy]:
    """For each group what its students wrote, folded."""
    texts = sat.sheet.written(part.view.snapshot, part.view.quantity.key, at)
    if not texts:
        return []
    out = []
    for mask in sat.members:
        mine = [texts[int(place)] for place in sat.sheet.at[mask] if int(place) in texts]
        found = folded(mine)
        if part.view.snapshot.names_hidden:
            found = [one for one in found if one.n >= FEWEST_ALIKE]
        shown = found[:MOST_TEXTS]
        out.append(
            WrittenBy(
                n=len(mine), others=len(mine) - sum(one.n for one in shown),
                texts=[WrittenText(text=one.text, n=one.n) for one in shown],
            )
        )  # fmt: skip
    return out


def _elsewhere(part: Slice, sheet: Sheet, info: QuestionInfo) -> list[Elsewhere]:
    """The same question in other forms and sittings of the test, newest first: everybody who sat
    it there, of those whom the asker sees."""
    if not info.common:
        return []
    snapshot, own = part.view.snapshot, part.view.quantity.key
    out: list[Elsewhere] = []
    seen: set[tuple[int, int | None]] = {(own.sitting.id, sheet.form)}
    for key in sorted(snapshot.measures, key=lambda m: m.date, reverse=True):
        if (key.assessment.id, key.subject) != (own.assessment.id, own.subject):
            continue
        for form in snapshot.marked_forms(key.sitting.id):
            if (key.sitting.id, form.form) in seen or key.role != "result":
                continue
            seen.add((key.sitting.id, form.form))
            other = sheet_of(snapshot, key, form.form)
            out += [_there(key, other, n) for n, i in enumerate(other.infos)
                    if i is not None and same(i.common) == same(info.common)]  # fmt: skip
    return out


def _there(key: MeasureKey, sheet: Sheet, at: int) -> Elsewhere:
    one = sheet.marks.chosen(np.array([at]))
    found = facility(one, np.zeros(len(one.marks), np.int64), 1)
    form = next((f.name for f in key.forms if f.id == sheet.form), "")
    where = key.sitting.name + (f", form {form}" if form else "")
    asked = replace(plain(key).id, form=sheet.form).ask
    return Elsewhere(
        label=where, question=sheet.questions[at], n=int(found.n[0, 0]),
        missing=int(found.missing[0, 0]), share=told(found.facility[0, 0]),
        low=told(found.low[0, 0]), high=told(found.high[0, 0]), asked=asked,
    )  # fmt: skip

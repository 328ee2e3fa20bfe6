"""A class that is paired with one's own: its shares of each row's marks, which options it chose and
what it wrote, without anybody's name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.access.since import FEWEST
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.published.paired import paired
from bridge_chart.answers.shows.items.body import Item, ItemsBody, PairedClass, PairedShare
from bridge_chart.answers.shows.items.looked import FEWEST_ALIKE, share_of
from bridge_chart.answers.shows.items.looked_body import (
    Looked,
    OptionRow,
    PairedAnswers,
    PairedOption,
    WrittenBy,
    WrittenText,
)
from bridge_chart.answers.shows.items.rows import rows_of
from bridge_chart.answers.shows.items.shares import told
from bridge_chart.answers.what.sheets import NONE, Sheet, sheet_of
from bridge_chart.answers.what.texts import folded
from bridge_chart.core.arrays import Mask
from bridge_chart.core.items.questions import facility
from bridge_chart.store.reference_tables import same
from bridge_chart.store.snapshot import Snapshot


@dataclass(frozen=True)
class _Read:
    shares: list[PairedShare]
    answers: PairedAnswers | None


def with_paired(part: Slice, body: ItemsBody) -> ItemsBody:
    """The body with the classes that stand beside the asker's own."""
    key, form = part.view.quantity.key, part.view.quantity.form

    def sat(whole: Snapshot) -> Mask:
        there = np.zeros(whole.students, bool)
        there[sheet_of(whole, key, form).at] = True
        return there

    def read(whole: Snapshot, own: Mask) -> _Read:
        sheet = sheet_of(whole, key, form)
        mine = own[sheet.at]
        answers = None if body.looked is None else _answers(part, whole, sheet, mine, body.looked)
        return _Read(_shares(body, sheet, mine), answers)

    found = paired(part.view.snapshot, key, sat, read)
    if not found:
        return body
    classes = [
        PairedClass(label=one.label, n=one.n, missing=one.missing, few=one.told is None)
        for one in found
    ]
    held = [(one.label, one.told) for one in found if one.told is not None]
    rows = [
        _with(row, [told_of.shares[n] for _, told_of in held]) for n, row in enumerate(body.rows)
    ]
    answers = [
        told_of.answers.model_copy(update={"label": label})
        for label, told_of in held if told_of.answers is not None
    ]  # fmt: skip
    looked = None if body.looked is None else body.looked.model_copy(update={"paired": answers})
    return body.model_copy(update={"paired": classes, "rows": rows, "looked": looked})


def _with(row: Item, shares: list[PairedShare]) -> Item:
    return row.model_copy(update={"paired": shares})


def _shares(body: ItemsBody, sheet: Sheet, mine: Mask) -> list[PairedShare]:
    """In the order of the body's rows; what fewer than FEWEST reached is somebody's figure."""
    rows = rows_of(sheet, body.by, body.only)
    own = replace(rows.marks, marks=rows.marks.marks[mine])
    found = facility(own, np.zeros(int(mine.sum()), np.int64), 1)
    place = {name: n for n, name in enumerate(rows.names)}
    at = [place[row.label] for row in body.rows]
    return [
        PairedShare(
            n=int(found.n[0, n]), missing=int(found.missing[0, n]),
            **({} if found.n[0, n] < FEWEST else {
                "share": told(found.facility[0, n]), "low": told(found.low[0, n]),
                "high": told(found.high[0, n]),
            }),
        )
        for n in at
    ]  # fmt: skip


def _answers(
    part: Slice, whole: Snapshot, sheet: Sheet, mine: Mask, looked: Looked
) -> PairedAnswers | None:
    """Of the question that is looked at; of a strand there is nothing chosen or written."""
    names = [same(one) for one in sheet.questions]
    if looked.questions or same(looked.label) not in names:
        return None
    at = names.index(same(looked.label))
    size = int(mine.sum())
    texts = sheet.written(whole, part.view.quantity.key, at)
    wrote = [texts[int(place)] for place in sheet.at[mine] if int(place) in texts]
    alike = [one for one in folded(wrote) if one.n >= FEWEST_ALIKE]
    written = WrittenBy(
        n=len(wrote), others=len(wrote) - sum(one.n for one in alike),
        texts=[WrittenText(text=one.text, n=one.n) for one in alike],
    )  # fmt: skip
    options = _options(sheet, at, mine, looked.options)
    return PairedAnswers(
        label="", n=size, written=written,
        options=[_option(n, size) for n in options],
    )  # fmt: skip


def _option(n: int, size: int) -> PairedOption:
    share, low, high = share_of(n, size)
    return PairedOption(n=n, share=share or 0.0, low=low or 0.0, high=high or 0.0)


def _options(sheet: Sheet, at: int, mine: Mask, rows: Sequence[OptionRow]) -> list[int]:
    if sheet.choices is None:
        return []
    chosen = sheet.choices[mine, at]
    place = {same(name): n for n, name in enumerate(sheet.options)} | {same(NONE): -1}
    return [int((chosen == place.get(same(row.option), -2)).sum()) for row in rows]
